"""What conditions do to a comparison, in words."""

import pytest

from haremile.core.comparison.comparability import fair_start
from haremile.core.records.conditions import ConditionBreak
from haremile.core.wording.conditions import (
    block_clauses,
    break_clauses,
    in_a_row_clauses,
    not_comparable_headline,
    not_comparable_sentence,
    override_clauses,
    swap_clauses,
    unseen_clauses,
)

NAMES = {1: "Varrow 12", 2: "Quillfern 8"}


def different_media(overrides=None):
    stated = {1: [{"medium": "installed"}], 2: [{"medium": "live"}]}
    return [one for one in fair_start(stated, overrides or {}) if one.key == "medium"]


def test_what_forbids_a_comparison_is_named_with_its_remedy():
    found = different_media()
    assert not_comparable_headline(found).startswith("Not comparable: ")
    sentence = not_comparable_sentence(found)
    assert sentence.startswith("Not alike at the start: ")
    assert found[0].remedy in sentence


def test_what_was_compared_all_the_same_says_so():
    found = different_media({"medium": "the same disk holds both"})
    assert override_clauses(different_media()) == []
    (clause,) = override_clauses(found)
    assert clause.startswith("compared despite ")


def test_blocks_are_mentioned_where_they_were_used():
    assert block_clauses(None) == []
    assert block_clauses(0.417) == ["compared within blocks, between which 42 % of the noise lies"]


def test_runs_in_a_row_decide_nothing_or_cost_width():
    assert in_a_row_clauses(False, [0.3]) == []
    few = in_a_row_clauses(True, [None, None])
    assert few[1].startswith("of fewer than 20 runs in a row")
    many = in_a_row_clauses(True, [None, 0.2, 0.5])
    assert "lag-1 autocorrelation up to 0.50: " in many[1]


@pytest.mark.parametrize(
    ("boots", "says"),
    [
        (frozenset(), []),
        (frozenset({"some"}), []),
        (frozenset({"3", "5"}), ["3 of 3 boots got ready with it"]),
    ],
)
def test_few_boots_of_an_answer_say_what_they_could_miss(boots, says):
    found = unseen_clauses(boots)
    assert [clause.partition(",")[0] for clause in found] == says


def test_swap_is_said_beside_the_memory():
    assert swap_clauses({2: 64.0 * 2**20}, NAMES) == ["Quillfern 8 has 64.0 MiB in swap beside it"]


@pytest.mark.parametrize(
    ("breaks", "says"),
    [
        ([], []),
        (
            [ConditionBreak("kernel", "6.1", "6.2", 7)],
            ["Varrow 12’s kernel changed from 6.1 to 6.2 at block 7"],
        ),
        (
            [ConditionBreak("kernel", "6.1", "6.2", None)] * 3,
            ["Varrow 12’s kernel changed from 6.1 to 6.2, and 2 more changes after it"],
        ),
    ],
    ids=["none", "one", "several"],
)
def test_what_changed_on_the_way_is_told_with_its_block(breaks, says):
    assert break_clauses("Varrow 12", breaks) == says
