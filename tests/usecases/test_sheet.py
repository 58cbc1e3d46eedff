from haremile.usecases.import_readings import import_study
from haremile.usecases.plan import checked_plan
from haremile.usecases.sheet import run_sheet_view
from helpers import install

BODY = b"""system,machine,metric,value,unit,run,block,set_aside
V,L,boot.total,10,s,a,1,
V,L,memory.used,300,MiB,a,1,
Q,L,boot.total,12,s,b,1,lid closed
Q,L,memory.used,310,MiB,b,1,
"""


def test_the_first_metric_of_the_catalogue_stands_for_each_run(bench):
    study = import_study(bench.studies, bench.readings, "Q", BODY)
    view = run_sheet_view(bench.studies, bench.readings, study.id)
    assert view.headline.key == "boot.total"
    assert [(line.value, line.is_set_aside) for line in view.lines] == [(10.0, False), (12.0, True)]
    assert view.margin_amount == 0.5


def test_a_sheet_without_readings_has_no_headline(bench):
    study = bench.studies.create(checked_plan("Q", [install("A"), install("B")], 2, 1))
    view = run_sheet_view(bench.studies, bench.readings, study.id)
    assert view.headline is None
    assert [line.value for line in view.lines] == [None] * 4
