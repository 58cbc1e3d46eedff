"""Standings of the sample world: they recover what is true of it, and say what they rest on."""

import pytest

from haremile.core.records.units import MIB
from haremile.demo.world import EARLIER_TRUTH
from haremile.errors import NotFoundError
from haremile.usecases.standings import Asked, standings_page

IDLE = Asked(metric="memory.used", method="probe", start="")


@pytest.fixture(name="page")
def page_of_the_world(bench, world):
    def page(**asked):
        return standings_page(bench.ever, bench.things, Asked(**{**vars(IDLE), **asked}))

    return page


def places(page):
    return {line.standing.system: line.standing.place for line in page.lines}


def test_the_list_recovers_the_truth_of_three_years(page):
    laptop = page(machine="Herbarium laptop")
    own = {line.standing.system: line.standing for line in laptop.lines}
    judged = 0
    for name, (_, used, _, _) in EARLIER_TRUTH.items():
        if name in own and own[name].interval:
            # between 0.6 and 1 % off from study to study, as the sample world has it
            low, high = own[name].interval.low * 0.985, own[name].interval.high * 1.015
            assert low <= used * MIB <= high, name
            judged += 1
    assert judged >= 8
    order = [line.standing.system for line in laptop.lines if line.standing.system in EARLIER_TRUTH]
    first, last = order.index("Quillfern 8 Tarnwick"), order.index("Varrow 10 Thistlow")
    assert first < order.index("Varrow 11 Tarnwick") < last


def test_the_till_is_an_island_that_is_never_ranked(page):
    found = page()
    assert not any(name.startswith("Hollowmere") for name in places(found))
    (island,) = [one for one in found.apart if "Hollowmere 1 Mossgate" in one.found.systems]
    assert island.own is not None and island.beside is not None and island.machine is not None
    assert "nobody in common with these" in island.sentence


def test_what_stands_on_the_same_machine_joins_not_side_by_side(page):
    own = {line.standing.system: line.standing for line in page().lines}
    assert not own["Varrow 12 Thistlow, fresh"].is_side_by_side
    assert own["Varrow 12 Thistlow"].is_side_by_side


def test_a_newer_release_makes_the_older_one_fade(page):
    lines = {line.standing.system: line for line in page().lines}
    assert lines["Quillfern 8 Tarnwick"].is_older and not lines["Quillfern 9-rc Tarnwick"].is_older
    assert "Quillfern 8 Tarnwick" not in places(page(newest_only=True))


@pytest.mark.parametrize(
    ("asked", "is_in", "is_out"),
    [
        ({"desktop": "Mossgate"}, "Ferncastle 7 Mossgate", "Varrow 12 Tarnwick"),
        ({"base": "Osterfell"}, "Sallowby 3 Tarnwick", "Quillfern 8 Tarnwick"),
        ({"channel": "rolling"}, "Marlstone 26.1 Mossgate", "Varrow 12 Tarnwick"),
        ({"until": 2024}, "Varrow 10 Tarnwick", "Varrow 12 Tarnwick"),
        ({"since": 2026}, "Varrow 12 Tarnwick", "Quillfern 6 Tarnwick"),
        ({"machine": "Field-kit board"}, "Osterfell Base", "Varrow 11 Tarnwick"),
        ({"held": {"medium": "live"}}, "Varrow 12 Thistlow, live", "Varrow 12 Thistlow"),
    ],
)
def test_the_list_can_be_narrowed(page, asked, is_in, is_out):
    found = places(page(**asked))
    assert is_in in found and is_out not in found


def test_what_was_left_out_is_told_with_its_reason(page):
    reasons = {one.reason for one in page().left_out}
    assert "medium: live, not installed" in reasons


def test_every_place_leads_to_its_studies(page):
    (line,) = [one for one in page().lines if one.standing.system == "Sallowby 3 Tarnwick"]
    (behind,) = line.measured
    assert behind.title == "Which Tarnwick is the lightest?"
    assert behind.row.startswith("memory.used|Germination-room mini PC|probe")
    assert behind.readings == 8


def test_what_failed_is_said_with_the_place(page):
    (line,) = [one for one in page().lines if one.standing.system == "Quillfern 9-rc Tarnwick"]
    assert line.standing.failed > 0 and line.standing.runs > line.standing.failed


def test_what_the_list_rests_on_is_said(page):
    notes = " ".join(page().notes)
    assert "from study to study a system differs by about" in notes
    assert "side by side and through others" in notes


def test_of_nothing_there_is_nothing_to_list(bench):
    found = standings_page(bench.ever, bench.things, Asked())
    assert found.lines == () and found.question is None
    with pytest.raises(NotFoundError):
        standings_page(bench.ever, bench.things, Asked(metric="memory.used"))


def test_filters_that_leave_nobody_say_so(page):
    found = page(desktop="Mossgate", channel="candidate")
    assert found.lines == () and found.beside == "No system is left by these filters."
