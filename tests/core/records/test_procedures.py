"""One record for each procedure, which everyone reads."""

import pytest

from haremile.core.records.metrics import metric
from haremile.core.records.procedures import ON_ANY_MACHINE, PROCEDURES, procedure_of, runs_of
from haremile.core.records.study import split_procedure
from haremile.errors import BadInputError
from haremile.usecases.plan import checked_plan
from haremile_probe.jobs import OPTIONS
from haremile_probe.main import VERBS
from helpers import install


def test_the_probe_knows_the_same_procedures():
    assert set(OPTIONS) == ON_ANY_MACHINE
    assert set(VERBS) >= ON_ANY_MACHINE


@pytest.mark.parametrize("one", PROCEDURES.values(), ids=PROCEDURES)
def test_each_stands_by_a_metric_that_its_runs_give(one):
    assert one.key in metric(one.headline).procedures
    assert one.limit_s > one.nominal_s > 0
    assert runs_of(one.key) == one.runs
    asked = f"{one.key}:Coppicer" if one.names_application else one.key
    assert split_procedure(asked)[0] == one.key
    made = [install("A"), install("B")]
    assert checked_plan("Q", made, 1, procedures=[asked]).procedures == (asked,)


def test_an_unknown_one_is_named_with_those_that_there_are():
    with pytest.raises(BadInputError, match="unknown procedure: dance; expected one of boot, idle"):
        procedure_of("dance")
    assert runs_of("by hand") == "runs"
