"""Totals: the same as the command gives, and turned by nothing but their own parts."""

import math
from dataclasses import replace

import pytest

from haremile.core.standing.total import Ends
from haremile.demo.world import HERBARIUM, REFERENCE, WEIGHTS
from haremile.errors import BadInputError, NotFoundError
from haremile.usecases.calculate import TotalQuestion, total_document
from haremile.usecases.export_readings import export_lines
from haremile.usecases.totals import AskedTotals, kept_set, totals_page

BOOT, IDLE = "boot.total|host-marker||", "memory.used|probe||"


@pytest.fixture(name="page")
def page_of_the_world(bench, world):
    def page(**asked):
        return totals_page(bench.ever, bench.weight_sets, AskedTotals(**asked))

    return page


def indexes(page):
    return {line.system: line.index for line in page.lines}


def test_a_study_has_the_total_that_the_command_gives(bench, world, page):
    study = world[HERBARIUM.title]
    found = page(study=study.id, weights={BOOT: 2.0, IDLE: 1.0}, reference=REFERENCE)
    whole = bench.studies.get(study.id)
    lines = export_lines(whole, bench.readings.readings(study.id), bench.studies.runs(study.id))
    asked = TotalQuestion(REFERENCE, {"boot.total": 2.0, "memory.used": 1.0})
    document = total_document(lines, asked)
    own = {one["system"]: one for one in document["systems"]}
    assert set(own) == set(indexes(found))
    for line in found.lines:
        assert line.index == pytest.approx(own[line.system]["total"], rel=1e-12)
        assert line.low == pytest.approx(own[line.system]["interval"]["low"], rel=1e-12)


def test_over_everything_an_index_is_made_of_the_figures_of_the_lists(page):
    found = page(weights={BOOT: 2.0, IDLE: 1.0}, reference=REFERENCE)
    for line in found.lines:
        if line.index is None:
            continue
        logs = sum(
            {BOOT: 2.0, IDLE: 1.0}[one.part] * math.log(one.points / 100) for one in line.parts
        )
        assert line.index == pytest.approx(100 * math.exp(logs / 3.0), rel=1e-12)
        assert line.low < line.index < line.high
    assert indexes(found)[REFERENCE] == pytest.approx(100.0)


def test_no_total_is_made_from_half_the_parts(page):
    warm = "launch.settled|probe|warm|Wayfarrow"
    found = page(weights={BOOT: 1.0, warm: 1.0})
    (osterfell,) = [one for one in found.lines if one.system == "Osterfell Base"]
    assert osterfell.index is None and osterfell.missing == (warm,)
    assert "Osterfell Base has no total: nothing usable of" in found.sentence
    assert "Wayfarrow" in found.labels[warm]


def test_weights_may_turn_the_leader_and_that_is_said(page, world):
    study = world[HERBARIUM.title].id
    by_boot = page(study=study, weights={BOOT: 1.0, IDLE: 0.1}, reference=REFERENCE)
    by_memory = page(study=study, weights={BOOT: 0.1, IDLE: 1.0}, reference=REFERENCE)
    assert by_boot.lines[0].system == "Varrow 12 Tarnwick"
    assert by_memory.lines[0].system == "Quillfern 9-rc Tarnwick"
    assert "Quillfern 9-rc Tarnwick leads if Idle memory weighs above" in by_boot.sentence


def test_removing_a_study_s_contender_turns_none_of_the_others(bench, world, page):
    study = world[HERBARIUM.title].id
    asked = {"study": study, "weights": {BOOT: 1.0, IDLE: 1.0}, "reference": REFERENCE}
    before = indexes(page(**asked))
    arms = bench.ever.measured
    gone = "Marlstone 26.1 Mossgate"

    class Fewer:
        questions = bench.ever.questions

        def measured(self, question):
            return [arm for arm in arms(question) if arm.system != gone]

    after = indexes(totals_page(Fewer(), bench.weight_sets, AskedTotals(**asked)))
    assert after == {name: index for name, index in before.items() if name != gone}


def test_the_sample_world_has_its_sets_with_their_reference_stored(bench, page):
    sets = {one.name: one for one in page().sets}
    assert set(sets) == set(WEIGHTS)
    found = page(set_id=sets["old laptop"].id)
    assert found.is_stored and found.reference == REFERENCE
    assert found.figures == pytest.approx(dict(sets["old laptop"].figures))


def test_a_set_keeps_its_reference_whatever_is_measured_later(bench, world):
    asked = AskedTotals(weights={BOOT: 1.0}, reference=REFERENCE, ends=Ends(50, 150))
    key = kept_set(bench.ever, bench.weight_sets, asked, "mornings", "")
    (kept,) = [one for one in bench.weight_sets.all() if one.id == key]
    bench.weight_sets.keep(replace(kept, figures={BOOT: kept.figures[BOOT] * 2}))
    found = totals_page(bench.ever, bench.weight_sets, AskedTotals(set_id=key))
    assert indexes(found)[REFERENCE] == pytest.approx(200.0)
    assert found.ends == Ends(50, 150)
    assert next(one for one in found.lines if one.system == REFERENCE).scaled == 100.0


def test_a_set_is_put_away_and_brought_back(bench, world):
    (key,) = [one.id for one in bench.weight_sets.all() if one.name == "office"]
    bench.weight_sets.put_away(key, True)
    assert "office" not in {one.name for one in bench.weight_sets.all()}
    with pytest.raises(NotFoundError):
        totals_page(bench.ever, bench.weight_sets, AskedTotals(set_id=key))
    bench.weight_sets.put_away(key, False)
    assert "office" in {one.name for one in bench.weight_sets.all()}


@pytest.mark.parametrize(
    ("asked", "error"),
    [
        ({"weights": {BOOT: -1.0}}, BadInputError),
        ({"weights": {"memory.used|nobody||": 1.0}}, NotFoundError),
        ({"weights": {BOOT: 1.0}, "reference": "Nobody"}, BadInputError),
        ({"weights": {f"own.{n}": 1.0 for n in range(31)}}, BadInputError),
    ],
)
def test_what_is_asked_wrongly_is_answered_in_words(page, asked, error):
    with pytest.raises(error):
        page(**asked)


def test_of_nothing_there_is_no_index(bench):
    found = totals_page(bench.ever, bench.weight_sets, AskedTotals())
    assert found.lines == () and found.headline == "Nothing was measured yet"
