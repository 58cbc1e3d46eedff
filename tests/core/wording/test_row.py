"""The answer of a row, as a sentence and in a few words."""

from itertools import combinations

import numpy as np
import pytest

from haremile.core.comparison.row_verdict import row_verdict
from haremile.core.comparison.verdict import VerdictRule, mirrored_pair, pair_verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import metric
from haremile.core.records.units import scale_for
from haremile.core.statistics.lane_statistics import summarise_lane
from haremile.core.wording.row import (
    RowFacts,
    absent_sentence,
    alone_sentence,
    early_sentence,
    expected_false_sentence,
    first_look_sentence,
    row_headline,
    row_sentence,
)

TEN = np.arange(10) / 10.0
NAMES = {1: "Varrow 12", 2: "Quillfern 8", 3: "Marlstone 26.1", 4: "Osterfell"}


def told(*lanes, key="boot.total", margin=None, clauses=()):
    made = metric(key)
    margin = margin or Margin(amount=0.5)
    rule = VerdictRule(margin, made.good_end, len(lanes))
    samples = dict(enumerate(lanes, 1))
    pairs = {
        (a, b): pair_verdict(samples[a], samples[b], rule) for a, b in combinations(samples, 2)
    }
    pairs |= {(b, a): mirrored_pair(found) for (a, b), found in pairs.items()}
    row = row_verdict(samples, {key: pairs[key] for key in combinations(samples, 2)})
    facts = RowFacts(
        metric=made,
        names={lane: NAMES[lane] for lane in samples},
        medians={lane: float(np.median(sample)) for lane, sample in samples.items()},
        pairs=pairs,
        margin=margin,
        scale=scale_for(made.unit, float(np.median(lanes[0]))),
        clauses=clauses,
    )
    return row_sentence(facts, row), row_headline(facts, row)


def test_a_leader_of_two_is_named_with_the_other_and_by_how_much():
    sentence, headline = told(TEN + 20, TEN + 14)
    assert sentence.startswith("Quillfern 8 is ahead of Varrow 12: typically 6.0 s sooner")
    assert headline == "Quillfern 8 ahead by 6.0 s"


def test_a_leader_of_many_is_set_against_the_next():
    sentence, headline = told(TEN + 20, TEN + 14, TEN + 17)
    assert "is ahead of every other. Against the next, Marlstone 26.1: " in sentence
    assert headline == "Quillfern 8 ahead by 3.0 s"


def test_of_memory_a_system_uses_less_instead_of_being_ahead():
    mib = 2.0**20
    sentence, headline = told(
        (TEN + 450) * mib, (TEN + 310) * mib, key="memory.used", margin=Margin(amount=15 * mib)
    )
    assert sentence.startswith("Quillfern 8 uses less than Varrow 12: ")
    assert headline == "Quillfern 8 uses 140 MiB less"


def test_level_rows_say_the_margin():
    sentence, headline = told(TEN + 20, TEN + 20.1, margin=Margin(amount=2.0))
    assert sentence == "All pairs differ by less than the margin (2 s)."
    assert headline == "Level: no difference beyond 2 s"


def test_those_who_share_the_first_place_are_named():
    sentence, headline = told(TEN + 20, TEN + 20.1, TEN + 40, margin=Margin(amount=2.0))
    assert sentence.startswith("Varrow 12 and Quillfern 8 share the first place: ")
    assert headline == "Varrow 12 and Quillfern 8 share the first place"


def test_open_rows_say_who_could_still_be_first():
    sentence, headline = told(TEN + 20, TEN + 20.9, TEN + 40, margin=Margin(amount=0.8))
    assert sentence == "The first place is undecided between Varrow 12 and Quillfern 8."
    assert headline == "Undecided between Varrow 12 and Quillfern 8"


def test_two_that_are_open_lean():
    sentence, headline = told(TEN + 20, TEN + 20.9, margin=Margin(amount=0.8))
    assert sentence.endswith("; Quillfern 8 against Varrow 12 leans to behind.")
    assert headline == "Undecided: no difference shown yet"


def test_too_few_repeats_say_how_many_it_takes():
    sentence, _ = told(TEN[:3] + 20, TEN[:3] + 29)
    assert sentence == "Too few repeats for a verdict: it takes 4 of each contender."


def test_without_a_margin_nothing_is_called_a_difference():
    sentence, headline = told(TEN + 20, TEN + 29, margin=Margin())
    assert sentence == "No margin was stated, so nothing is called a difference."
    assert headline == "No margin stated"


def test_trouble_stands_in_the_sentence_that_praises():
    trouble = ["Quillfern 8 failed in 3 of 20 boots", "Varrow 12 stalls in 1 of 20 boots"]
    sentence, _ = told(TEN + 20, TEN + 14, clauses=trouble)
    assert sentence.endswith(f"; {trouble[0]}; {trouble[1]}.")


@pytest.mark.parametrize(
    ("sample", "says"),
    [
        (TEN + 20.0, "Varrow 12: typically 20.4 s (20.1 to 20.8), 10 readings. One contender"),
        (TEN[:1] + 20.0, "Varrow 12: typically 20.0 s (no interval from so few), 1 reading. One"),
    ],
    ids=["ten", "one"],
)
def test_one_contender_is_told_by_itself(sample, says):
    found = alone_sentence("Varrow 12", summarise_lane(sample), scale_for("s", 20.0), [])
    assert found.startswith(says)
    assert found.endswith("so nothing is compared.")


def test_reasons_for_no_verdict_name_what_is_in_and_what_is_not():
    assert early_sentence(7, 20, "runs").endswith("when all planned runs are in: 7 of 20 so far.")
    assert "after block 6, when its runs are in: 7 of 20" in first_look_sentence(6, 7, 20, "runs")
    assert absent_sentence(["Varrow 12"]).startswith("No readings from Varrow 12, ")


def test_a_sheet_says_how_many_rows_would_hold_a_false_verdict():
    assert expected_false_sentence(0, 0, 1.0) == ""
    assert expected_false_sentence(12, 4, 1.0) == (
        "12 verdicts in 4 rows; by chance at most 0.2 of these rows would hold a false verdict."
    )
