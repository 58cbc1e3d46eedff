"""``--json`` on every verb that prints."""

import json
import math
from datetime import UTC, datetime
from uuid import UUID

import pytest

from haremile.cli.documents import as_document
from haremile.core.records.study import Machine
from haremile.usecases.access import Role
from haremile.usecases.plan import checked_plan
from helpers import install


def test_records_become_names_and_values_and_what_is_undefined_is_null():
    found = as_document({"a": Machine("M"), "b": (math.inf, math.nan, 1.5, True, Role.OWN)})
    assert found["a"] == {
        "name": "M",
        "kind": "physical",
        "host": None,
        "facts": {},
        "profile": None,
    }
    assert found["b"] == [None, None, 1.5, True, "own"]
    at = datetime(2026, 10, 5, tzinfo=UTC)
    assert as_document([at, UUID(int=1)]) == [str(at), str(UUID(int=1))]


@pytest.mark.parametrize(
    ("words", "holds"),
    [
        (["study", "list"], "Which?"),
        (["study", "show", "Which"], "findings"),
        (["study", "tell", "Which"], "study.planned"),
        (["rig", "list"], "Varrow 12"),
        (["key", "list"], "Ida"),
        (["guest", "list"], "osterfell-base"),
    ],
)
def test_every_verb_that_prints_prints_a_document(haremile, bench, words, holds):
    made = [install("Varrow 12"), install("Quillfern 8")]
    bench.studies.create(checked_plan("Which?", made, 1, seed=1))
    bench.access.add_person("Ida", Role.LOOK)
    done = haremile(*words, "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)
    assert holds in done.stdout
