import numpy as np
import pytest

from haremile.core.comparison.over_looks import most_error, verdicts_over_looks
from haremile.core.comparison.verdict import Form, Verdict, VerdictRule
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd

RULE = VerdictRule(Margin(amount=1.0), GoodEnd.LOW)


def test_looks_together_err_no_more_than_one_and_extensions_spend_half_of_the_last():
    looks = InterimLooks((10, 20)).extended_to(30).extended_to(40)
    errors = [RULE.errors(look, Form.RANKS)[0] for look in looks.every]
    assert errors[0] == pytest.approx(0.05 / 4, rel=0.05)
    assert errors[0] < errors[1] < 0.05
    assert errors[2:] == pytest.approx([0.05 * 0.75 / 2, 0.05 * 0.75 / 4])
    assert most_error(looks) == pytest.approx(1 + 0.75 * 0.75)
    assert most_error(None) == most_error(InterimLooks((10, 20))) == 1.0


def test_a_verdict_reached_at_a_look_stands():
    generator = np.random.default_rng(1)
    a = generator.normal(size=30)
    b = np.concatenate([generator.normal(9, 1, 10), generator.normal(0, 1, 20)])
    taken = [
        (look, {1: a[: look.blocks], 2: b[: look.blocks]}) for look in InterimLooks((10, 30)).every
    ]
    found = verdicts_over_looks(taken, [(1, 2)], RULE)[1, 2]
    assert found.verdict is Verdict.BEHIND
    assert found.look.blocks == 10
    assert found.contrast.shift.interval.level >= 1 - 0.05 / 9 * 1.02
    late = verdicts_over_looks(taken[1:], [(1, 2)], RULE)[1, 2]
    assert late.verdict is Verdict.UNDECIDED


@pytest.mark.parametrize(("form", "first"), [(Form.RANKS, 9), (Form.PAIRS, 9)])
def test_after_every_block_both_forms_are_first_read_where_pairs_can_decide(form, first):
    planned = InterimLooks.after_every_block(24).planned
    assert RULE.deciding_looks(planned, form)[0] == first


def test_a_short_plan_of_many_lanes_does_not_wait_for_pairs():
    rule = VerdictRule(Margin(amount=1.0), GoodEnd.LOW, 8)
    planned = InterimLooks.after_every_block(12).planned
    assert rule.deciding_looks(planned, Form.RANKS)[0] < rule.deciding_looks(planned, Form.PAIRS)[0]


def test_looks_of_pairs_are_read_within_blocks():
    generator = np.random.default_rng(2)
    drift = 3.0 * generator.normal(size=20)
    lanes = {1: drift + generator.normal(0, 0.2, 20), 2: drift + generator.normal(2, 0.2, 20)}
    (look,) = InterimLooks((20,)).every
    found = verdicts_over_looks([(look, lanes)], [(1, 2)], RULE, Form.PAIRS)[1, 2]
    assert found.contrast.method == "signed rank"
    assert found.verdict is Verdict.BEHIND
    apart = verdicts_over_looks([(look, lanes)], [(1, 2)], RULE)[1, 2]
    assert apart.verdict is Verdict.UNDECIDED


def test_reading_again_after_another_run_gives_what_reading_once_does():
    generator = np.random.default_rng(4)
    lanes = {1: generator.normal(size=24), 2: generator.normal(1.6, 1.0, 24)}
    looks = InterimLooks.after_every_block(24)

    def read(blocks):
        taken = [
            (look, {lane: found[: look.blocks] for lane, found in lanes.items()})
            for look in looks.taken(blocks)
        ]
        return verdicts_over_looks(taken, [(1, 2)], RULE)[1, 2]

    again = [read(blocks) for blocks in range(9, 25)]
    assert [one.is_open for one in again] == sorted((one.is_open for one in again), reverse=True)
    lanes[1] = lanes[1].copy()
    lanes[1][0] -= 8.0
    assert read(9).contrast != again[0].contrast, "a corrected reading is read anew"
