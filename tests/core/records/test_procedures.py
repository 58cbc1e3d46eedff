"""One record for each procedure, which everyone reads."""

import pytest

from haremile.core.records.metrics import metric
from haremile.core.records.procedures import (
    ON_ANY_MACHINE,
    PROCEDURES,
    headline_of,
    procedure_of,
    runs_of,
)
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
    assert one.limit_s > one.nominal_s > 0
    assert runs_of(one.key) == one.runs
    name = "own.s.low.Sort_seeds" if one.names_measure else "Coppicer"
    asked = f"{one.key}:{name}" if one.is_named else one.key
    procedure, conditions = split_procedure(asked)
    assert procedure == one.key
    assert one.key in metric(headline_of(procedure, conditions)).procedures
    made = [install("A"), install("B")]
    assert checked_plan("Q", made, 1, procedures=[asked]).procedures == (asked,)


@pytest.mark.parametrize(
    ("text", "conditions"),
    [
        ("ramp:Wayfarrow", {"app": "Wayfarrow"}),
        ("ramp:Coppicer:text,sheet", {"app": "Coppicer", "opens": "text, sheet"}),
        ("ramp:W:https://seeds.example/", {"app": "W", "opens": "https://seeds.example/"}),
        ("launch:Coppicer", {"app": "Coppicer", "start": "warm"}),
        (
            "least-memory:512,1024:2:Wayfarrow",
            {
                "memory_steps": "512, 1024 MiB",
                "boots_each": "2",
                "app": "Wayfarrow",
                "pages_open": "4",
            },
        ),
    ],
)
def test_what_a_procedure_states_in_a_plan(text, conditions):
    assert split_procedure(text)[1] == conditions


def test_pages_are_a_number_that_can_be():
    for pages in ("0", "x", "999"):
        with pytest.raises(BadInputError, match="from 1 to 200 pages"):
            split_procedure(f"least-memory::3:Wayfarrow:{pages}")


def test_an_unknown_one_is_named_with_those_that_there_are():
    with pytest.raises(BadInputError, match="unknown procedure: dance; expected one of boot, idle"):
        procedure_of("dance")
    assert runs_of("by hand") == "runs"
