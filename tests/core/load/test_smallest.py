import pytest

from haremile.core.load.smallest import Fit, Need, RampFigures, fit, needed
from haremile.core.wording.ramps import need_text, ramps_headline

GIB = 2.0**30
MIB = 2.0**20


def test_what_pages_need_is_of_the_runs_and_its_limits_too():
    ramps = [RampFigures((500 + run) * MIB, 50 * MIB) for run in range(8)]
    found = needed(ramps, 10, 100 * MIB)
    assert found.typical == pytest.approx(1103.5 * MIB)
    assert (found.low, found.high) == (1100 * MIB, 1107 * MIB)
    assert found.level == pytest.approx(1 - 2 * 0.5**8)
    assert found.runs == 8


def test_few_ramps_tell_their_range_with_the_level_that_it_has():
    found = needed([RampFigures(v * MIB, 0.0) for v in (3, 1, 2, 5, 4)], 7, 0.0)
    assert (found.low, found.typical, found.high) == (1 * MIB, 3 * MIB, 5 * MIB)
    assert found.level == pytest.approx(1 - 2 * 0.5**5)
    assert needed([], 7, 0.0) is None


@pytest.mark.parametrize(
    ("low", "high", "swap", "said"),
    [
        (0.8, 0.9, 0.0, Fit.FITS),
        (1.1, 1.2, 0.0, Fit.DOES_NOT_FIT),
        (0.9, 1.1, 0.0, Fit.OPEN),
        (1.1, 1.2, 0.5, Fit.WITH_SWAP),
        (1.4, 1.6, 0.5, Fit.OPEN),
        (1.6, 1.7, 0.5, Fit.DOES_NOT_FIT),
        (0.9, 1.1, 0.5, Fit.OPEN),
    ],
)
def test_a_machine_of_one_gibibyte(low, high, swap, said):
    need = Need((low + high) / 2 * GIB, low * GIB, high * GIB, 0.95, 8)
    assert fit(need, GIB, swap * GIB) is said


def test_what_was_not_measured_is_said():
    assert fit(None, GIB) is Fit.NOT_MEASURED


def test_the_headline_says_who_carries_how_many_and_which_were_never_ended():
    names = {1: "Varrow", 2: "Quillfern"}
    assert (
        ramps_headline({1: 9, 2: 13}, [2], names) == "Quillfern carries at least 13 pages, Varrow 9"
    )
    assert ramps_headline({}, [], names) == "No ramp was carried out yet"
    need = Need(1.2 * GIB, 1.1 * GIB, 1.3 * GIB, 0.95, 8)
    assert need_text("Varrow", 1, need) == "Varrow: 1 page needs 1.20 GiB (1.10 to 1.30)."
