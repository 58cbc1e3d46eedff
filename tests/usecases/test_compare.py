import threading

from haremile.store.rows import StudyAnswerRow
from haremile.usecases import compare as module
from haremile.usecases.compare import kept_findings, refresh_answer, study_findings
from haremile.usecases.import_readings import import_study

ROWS = [
    f"{system},Laptop,boot.total,{base + i / 10},s"
    for system, base in (("Varrow 12", 10), ("Quillfern 8", 14))
    for i in range(8)
]
BODY = ("system,machine,metric,value,unit\n" + "\n".join(ROWS) + "\n").encode()


def test_findings_are_calculated_once_for_each_content_and_never_out_of_date(bench, monkeypatch):
    study = import_study(bench.studies, bench.readings, "Which?", BODY)
    calculated = []
    real = module.find
    monkeypatch.setattr(module, "find", lambda *asked: calculated.append(1) or real(*asked))

    def median():
        (row,) = study_findings(bench.studies, bench.readings, study.id).rows
        return row.lanes[0].summary.median

    first = median()
    assert median() == first
    assert len(calculated) <= 1
    reading = min(bench.readings.readings(study.id), key=lambda item: item.value)
    bench.readings.set_aside(reading.id, "the lid was closed")
    assert median() != first
    bench.readings.set_aside(reading.id, None)
    before = len(calculated)
    assert median() == first
    assert len(calculated) == before, "the content of before is known"


def test_who_asks_while_they_are_calculated_waits_for_them(bench, monkeypatch):
    study = import_study(bench.studies, bench.readings, "At once?", BODY)
    calculated, begun, may_end = [], threading.Event(), threading.Event()
    real = module.find

    def slow(*asked):
        calculated.append(1)
        begun.set()
        assert may_end.wait(60)
        return real(*asked)

    monkeypatch.setattr(module, "find", slow)
    monkeypatch.setattr(module, "_kept", type(module._kept)())
    found = []

    def ask():
        found.append(study_findings(bench.studies, bench.readings, study.id))

    first, second = threading.Thread(target=ask), threading.Thread(target=ask)
    first.start()
    assert begun.wait(60)
    second.start()
    may_end.set()
    first.join(60)
    second.join(60)
    assert len(calculated) == 1
    assert found[0] is found[1]


def test_what_a_study_answers_is_kept_again_though_its_findings_are_known(bench):
    study = import_study(bench.studies, bench.readings, "Which?", BODY)
    kept_findings(bench.studies, bench.readings, study.id)
    (first,) = bench.studies.digests()
    assert first.is_current
    StudyAnswerRow.delete().execute()  # as where a copy of the book from before was put in place
    refresh_answer(bench.studies, bench.readings, study.id)
    (again,) = bench.studies.digests()
    assert (again.answer, again.is_current) == (first.answer, True)
