"""Terminals' outputs as people paste them: read right, asked about, or told as not understood."""

import json
import random

import pytest

from haremile.core.records.metrics import metric
from haremile.errors import BadInputError
from haremile.formats.pasted import MOST_CHARACTERS, recognise
from helpers import DATA

FOLDER = DATA / "pasted"
EXPECTED = json.loads((FOLDER / "expected.json").read_text())
MUTATED = 2000
WHOLE = {
    name: {one.metric: found.text[one.start : one.end] for one in found.pieces}
    for name, found in (
        (name, recognise((FOLDER / f"{name}.txt").read_text())) for name in EXPECTED
    )
}
"""What each reading rests on."""


def text_of(name):
    return (FOLDER / f"{name}.txt").read_text()


def test_there_are_enough_of_them():
    assert len(EXPECTED) >= 60
    assert set(EXPECTED) == {path.stem for path in FOLDER.glob("*.txt")}


@pytest.mark.parametrize("name", sorted(EXPECTED))
def test_an_output_is_read_right(name):
    told, found = EXPECTED[name], recognise(text_of(name))
    assert {one.metric: one.value for one in found.pieces} == pytest.approx(told["readings"])
    assert {one.key: one.value for one in found.stated} == told["stated"]
    assert (len(found.questions), len(found.unread)) == (told["questions"], told["unread"])
    assert found.system == told["system"]
    for one in found.pieces:
        assert one.unit == metric(one.metric).unit
        assert one.definition
        assert found.text[one.start : one.end].strip()


def changed(text, dice):
    """A text as it comes after a slip of the hand, a bad copy or another tool."""
    lines = text.split("\n")
    kind = dice.randrange(7)
    place = dice.randrange(len(lines))
    if kind == 0:
        del lines[place]
    elif kind == 1:
        lines[place] = lines[place][: dice.randrange(len(lines[place]) + 1)]
    elif kind == 2:
        lines.insert(place, dice.choice(lines))
    elif kind == 3:
        words = lines[place].split()
        if words:
            words[dice.randrange(len(words))] = dice.choice(["n/a", "-", "12,5", "1e9", "0x1f"])
            lines[place] = " ".join(words)
    elif kind == 4:
        at = dice.randrange(len(text) + 1)
        return text[:at] + dice.choice("\x00\u202eé7.,:% \t\n") + text[at:]
    elif kind == 5:
        lines = lines[place:] + lines[:place]
    else:
        lines[place] = lines[place].replace(" ", "", 3)
    return "\n".join(lines)


def figures(text):
    """What stands in a text as a figure, whatever its unit."""
    return "".join(c for c in text if c.isdigit())


def test_a_mutated_text_is_read_right_asked_about_or_not_at_all():
    dice = random.Random(17)
    names = sorted(EXPECTED)
    for _ in range(MUTATED):
        name = dice.choice(names)
        found = recognise(changed(text_of(name), dice))
        for one in found.pieces:
            assert one.value >= 0
            shown = found.text[one.start : one.end]
            assert figures(shown), name
            same = WHOLE[name].get(one.metric)
            if same is not None and shown == same:  # nothing of what it rests on was touched
                assert one.value == pytest.approx(EXPECTED[name]["readings"][one.metric]), name


def test_what_is_beyond_the_bounds_is_refused():
    with pytest.raises(BadInputError, match="characters"):
        recognise("x" * (MOST_CHARACTERS + 1))
    with pytest.raises(BadInputError, match="lines"):
        recognise("\n" * 9000)


def test_the_same_measure_twice_is_asked_about():
    found = recognise(text_of("twice"))
    assert all("one of them belongs to a run" in one.says for one in found.questions)
    assert all(len(one.choices) == 2 for one in found.questions)
