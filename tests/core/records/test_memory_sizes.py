import pytest

from haremile.core.records.memory_sizes import SOLD_MIB, parse_boots, parse_sizes
from haremile.core.records.study import split_procedure
from haremile.errors import BadInputError


def test_sizes_are_those_sold_a_list_or_a_range():
    assert parse_sizes("") == SOLD_MIB
    assert parse_sizes("128, 64,96") == (64, 96, 128)
    assert parse_sizes("64-128/32") == (64, 96, 128)


@pytest.mark.parametrize(
    "text", ["64", "64-128", "a,b", "64-128/0", "8,16", "64-9000000/1", "512;768"]
)
def test_what_is_no_list_of_sizes_is_refused(text):
    with pytest.raises(BadInputError):
        parse_sizes(text)


def test_boots_of_the_answer_are_three_or_as_stated():
    assert (parse_boots(""), parse_boots("5")) == (3, 5)
    for text in ("0", "31", "x", "-1"):
        with pytest.raises(BadInputError, match="boots are asked"):
            parse_boots(text)


def test_a_search_states_its_sizes_and_boots_as_conditions():
    name, conditions = split_procedure("least-memory:64-128/32:5")
    assert name == "least-memory"
    assert conditions == {"memory_steps": "64, 96, 128 MiB", "boots_each": "5"}
    assert split_procedure("least-memory")[1]["memory_steps"] == "512, 768, 1024, 2048 MiB"
