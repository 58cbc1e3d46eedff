"""Series of the sample world."""

from datetime import date

import pytest

from haremile.core.records.library import Noun, Source
from haremile.core.standing.series import Change
from haremile.demo.world import DRIFT_MONTHS
from haremile.errors import NotFoundError
from haremile.usecases.series import AskedSeries, series_page

WATCHED = "Herbarium laptop|Varrow 11 Tarnwick|"


@pytest.fixture(name="page")
def page_of_the_world(bench, world):
    def page(series=None, metric="memory.used", method="probe"):
        asked = AskedSeries(metric, method, "", None, series)
        return series_page(bench.ever, bench.things, asked)

    return page


def test_an_edition_is_followed_over_its_releases(page):
    found = page("Quillfern Tarnwick")
    assert [one.system for one in found.releases] == [
        "Quillfern 6 Tarnwick",
        "Quillfern 7 Tarnwick",
        "Quillfern 8 Tarnwick",
        "Quillfern 9-rc Tarnwick",
    ]
    assert found.releases[0].change is None
    assert all(one.ratio < 1.0 for one in found.releases[1:])  # each needs less than the last
    assert found.sentence.startswith("From release to release it is typically −")
    assert all(one.change in Change for one in found.releases[1:])


def test_an_install_is_followed_over_the_months(page):
    found = page(WATCHED)
    own = [one for one in found.months if one.readings == 4]
    assert len(own) == DRIFT_MONTHS
    assert found.watched.centre is not None
    assert not any(one.is_beyond for one in own)
    assert [one.at for one in found.months] == sorted(one.at for one in found.months)


def test_hardware_that_changed_breaks_the_series_on_its_day(bench, page):
    machine = next(m for m in bench.things.all(Noun.MACHINE) if m.name == "Herbarium laptop")
    for size, day in (("4 GiB", date(2025, 1, 1)), ("8 GiB", date(2026, 3, 9))):
        bench.things.state(Noun.MACHINE, machine.id, "memory", size, Source("the label", day))
    (broken,) = [one for one in page(WATCHED).breaks if one.what.startswith("memory")]
    assert broken.what == "memory: 4 GiB to 8 GiB" and broken.at.date() == date(2026, 3, 9)


def test_what_is_no_series_is_not_found(page):
    with pytest.raises(NotFoundError):
        page("Nobody’s")
    with pytest.raises(NotFoundError):
        page(metric="memory.pss")


def test_of_nothing_there_is_no_series(bench):
    found = series_page(bench.ever, bench.things, AskedSeries())
    assert found.chosen is None and found.headline == "Nothing was measured yet"
