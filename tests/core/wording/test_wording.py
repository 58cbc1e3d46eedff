import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from haremile.core.comparison.records import Incidents
from haremile.core.comparison.reliability import reliability
from haremile.core.comparison.verdict import Verdict, VerdictRule, mirrored_pair, pair_verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd, metric
from haremile.core.records.units import scale_for
from haremile.core.statistics.lane_statistics import summarise_lane
from haremile.core.statistics.modality import two_modes
from haremile.core.statistics.run_order import diagnose_sequence
from haremile.core.wording.difference import margin_text, pair_sentence
from haremile.core.wording.numbers import duration_text, of_runs
from haremile.core.wording.reliability import (
    alone_reliability_sentence,
    incident_clauses,
    reliability_sentence,
)
from haremile.core.wording.run_order import lane_sentences

MIB = 2.0**20
TEN = np.arange(10) / 10.0


def sentence(key, a, b, margin=None, incidents=()):
    made = metric(key)
    found = pair_verdict(a, b, VerdictRule(margin or Margin(amount=1e-9), made.good_end))
    scale = scale_for(made.unit, float(np.median(a)))
    return pair_sentence(made, "Varrow 12", "Quillfern 8", found, scale, incidents)


@pytest.mark.parametrize(
    ("key", "a", "b", "says"),
    [
        ("boot.total", TEN + 20, TEN + 16.4, "typically 3.6 s sooner (3.3 to 3.9)"),
        ("boot.total", TEN + 20, TEN + 23, "typically 3.0 s later (2.7 to 3.3)"),
        ("memory.used", (TEN + 450) * MIB, (TEN + 310) * MIB, "typically 140 MiB less"),
        ("process.count", TEN * 10 + 120, TEN * 10 + 141, "typically 21 more"),
        ("rate.mem_read", (TEN + 90) * MIB, (TEN + 45) * MIB, "typically 45.0 MiB/s lower"),
        ("boot.total", TEN + 20, TEN + 20, "typically no difference (−0.3 to +0.3)"),
    ],
)
def test_direction_and_size_are_never_ambiguous(key, a, b, says):
    assert f"Quillfern 8 against Varrow 12: {says}" in sentence(key, a, b)


def test_per_cent_is_said_of_the_other_with_its_owner():
    says = sentence("memory.used", (TEN + 500) * MIB, (TEN + 410) * MIB)
    assert "it has 82 % of Varrow 12’s amount (18 % less)" in says
    assert "about 100 % of Varrow 12’s time" in sentence("boot.total", TEN + 500, TEN + 500.5)


def test_a_tiny_difference_is_not_written_as_none():
    says = sentence("boot.total", TEN / 1e4 + 20, TEN / 1e4 + 20.01)
    assert "typically less than 0.1 s later" in says


def test_open_pairs_lean_and_too_few_say_how_many():
    leaning = sentence("boot.total", TEN + 20, TEN + 20.9, Margin(amount=0.8))
    assert leaning.endswith("Undecided, leaning to behind.")
    few = sentence("boot.total", TEN[:3] + 20, TEN[:3] + 29, Margin(amount=0.8))
    assert few.endswith("Too few repeats for a verdict: it takes 4 of each.")


def test_trouble_follows_in_the_same_sentence():
    names = {1: "Varrow 12", 2: "Quillfern 8"}
    incidents = [Incidents(1, 0, 0, 20), Incidents(2, 3, 1, 20)]
    clauses = incident_clauses(incidents, names, "boots")
    assert clauses == [
        "Quillfern 8 failed in 3 of 20 boots",
        "Quillfern 8 stalls in 1 of 20 boots",
    ]
    assert clauses[0] in sentence("boot.total", TEN + 20, TEN + 10, incidents=clauses)


@pytest.mark.parametrize(
    ("margin", "unit", "says"),
    [
        (Margin(amount=0.5), "s", "0.5 s"),
        (Margin(share=0.03), "s", "3 %"),
        (Margin(0.03, 15 * MIB), "B", "15 MiB or 3 %, whichever is wider"),
        (Margin(amount=3.0), "1", "3"),
        (Margin(), "s", "none stated"),
    ],
)
def test_margins_are_written_as_people_state_them(margin, unit, says):
    assert margin_text(margin, unit) == says


def test_a_quiet_study_says_what_it_could_not_see():
    quiet = [Incidents(lane, 0, 0, 20) for lane in (1, 2)]
    names = {1: "A", 2: "B"}
    found = reliability({1: (0, 0, 20), 2: (0, 0, 20)})
    says = reliability_sentence(quiet, found, names, "boots")
    assert says.startswith("None of 40 boots failed or stalled; at 20 boots each")
    assert "up to 14 %" in says


def test_verdicts_mirror():
    assert Verdict.AHEAD.mirrored is Verdict.BEHIND
    assert Verdict.LOWER.mirrored is Verdict.HIGHER
    assert Verdict.LEVEL.mirrored is Verdict.LEVEL


def lane(values, key="boot.total"):
    made = metric(key)
    scale = scale_for(made.unit, float(np.median(values)))
    summary, ended = summarise_lane(values), np.array(values)[np.isfinite(values)]
    order = diagnose_sequence(ended)
    return " ".join(lane_sentences(made, scale, summary, order, two_modes(ended)))


def test_one_lane_is_told_in_words_with_what_could_go_unseen():
    generator = np.random.default_rng(2)
    quiet = generator.normal(20, 0.2, 24)
    assert lane(quiet).startswith("Typically 20.0 s (")
    assert "Shuffled order" not in lane(quiet)
    drifting = lane(np.sort(generator.normal(20, 1, 12)))
    assert "Readings rise over the runs, by" in drifting
    assert "12 runs tell little of their order" in drifting
    assert "The first run is 9." in lane(np.array([29.5, *quiet]))
    assert "Far out: run 1." in lane(np.array([29.5, *quiet]))
    assert "too few for an interval" in lane(quiet[:4])


def test_a_lane_that_mostly_timed_out_has_no_typical_figure():
    says = lane(np.array([20.0, 21.0, *[np.inf] * 5]))
    assert says.startswith("Typically beyond the time limit: 5 runs timed out.")
    some = lane(np.array([*np.arange(20.0, 29.0), np.inf]))
    assert "; 1 run timed out" in some


def test_reliability_of_one_lane_has_its_share_or_what_could_hide():
    assert "4 of 20 runs failed (8 to 42 %)" in alone_reliability_sentence(4, 0, 20)
    quiet = alone_reliability_sentence(0, 2, 20)
    assert quiet == "None of 20 runs failed; a rate of up to 14 % can go unseen; 2 stalled."
    many = alone_reliability_sentence(0, 0, 1_562)
    assert many == "None of 1562 runs failed; a rate of up to 0.19 % can go unseen."


def test_who_fails_more_often_is_said_with_the_difference():
    incidents = [Incidents(1, 0, 0, 20), Incidents(2, 12, 0, 20)]
    found = reliability({1: (0, 0, 20), 2: (12, 0, 20)})
    says = reliability_sentence(incidents, found, {1: "A", 2: "B"}, "boots")
    assert "B fails more often than A, by 60 points (" in says


@pytest.mark.parametrize(("seconds", "says"), [(61, "61 s"), (1200, "20 min"), (3 * 3600, "3.0 h")])
def test_durations_are_rounded_as_people_do(seconds, says):
    assert duration_text(seconds) == says


SHIFT = re.compile(r"typically (.+?) (sooner|later) \(([−+]?[\d.]+) to ([−+]?[\d.]+)\)")
figures = st.lists(
    st.floats(5.0, 60.0, allow_nan=False).map(lambda v: round(v, 3)), min_size=6, max_size=14
)


@given(figures, figures, st.sampled_from([0.05, 0.5, 3.0]))
@settings(max_examples=150)
def test_signs_directions_limits_and_verdict_agree_in_every_sentence(a, b, margin):
    made, rule = metric("boot.total"), VerdictRule(Margin(amount=margin), GoodEnd.LOW)
    found = pair_verdict(np.array(a), np.array(b), rule)
    scale = scale_for("s", float(np.median(a)))
    texts = [
        pair_sentence(made, "A", "B", found, scale),
        pair_sentence(made, "B", "A", mirrored_pair(found), scale),
    ]
    for text, one in zip(texts, (found, mirrored_pair(found)), strict=True):
        said = SHIFT.search(text)
        shift = (one.inner if one.verdict is Verdict.LEVEL else one.contrast).shift
        if said is None:
            assert "no difference" in text
            assert shift.value == 0.0
            continue
        size, word, low, high = said.groups()
        assert word == ("sooner" if shift.value < 0 else "later")
        assert size not in ("0 s", "0.0 s", "0.00 s")
        limits = [float(part.replace("−", "-")) for part in (low, high)]
        if one.verdict is Verdict.LEVEL:
            assert max(abs(limit) for limit in limits) <= margin + 0.1
        if one.verdict in (Verdict.AHEAD, Verdict.BEHIND) or one.lean is not None:
            assert min(limits) > 0.0, text
        if "%" in text and "about" not in text:
            assert ("less" in text.split("%")[-1]) == (one.contrast.ratio.value < 1.0)
    words = [SHIFT.search(text) for text in texts]
    if all(words):
        assert {one.group(2) for one in words} == {"sooner", "later"}
        assert words[0].group(1) == words[1].group(1)


def test_a_lane_beyond_its_limit_is_said_from_both_sides():
    late = np.array([10.0, *[np.inf] * 7])
    found = pair_verdict(TEN + 9, late, VerdictRule(Margin(amount=0.5), GoodEnd.LOW))
    made, scale = metric("boot.total"), scale_for("s", 9.0)
    assert "typically beyond the time limit, later" in pair_sentence(made, "A", "B", found, scale)
    turned = pair_sentence(made, "B", "A", mirrored_pair(found), scale)
    assert "A against B: typically sooner: the other is beyond the time limit" in turned
    assert "%" not in turned


def test_one_run_is_no_plural():
    assert of_runs(1, "boots") == "1 boot"
    assert of_runs(1, "launches") == "1 launch"
    assert of_runs(2, "launches") == "2 launches"
