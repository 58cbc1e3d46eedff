import pytest

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.meminfo import memory_use, parse_meminfo
from haremile_probe.parsers.settling import SettleRule, settled
from helpers import DATA

RULE = SettleRule(window_s=3.0)


def test_a_still_curve_settles_once_the_window_is_covered():
    times = [0.5 * i for i in range(8)]
    assert settled(times[:6], [100.0] * 6, RULE) is None
    found = settled(times, [100.0] * 8, RULE)
    assert found.at_s == 3.5


def test_a_drifting_or_ragged_curve_does_not():
    times = [0.5 * i for i in range(12)]
    assert settled(times, [100.0 + 0.3 * i for i in range(12)], RULE) is None
    assert settled(times, [100.0 + 3 * (i % 2) for i in range(12)], RULE) is None


def test_the_reading_is_the_record_at_the_windows_median():
    times = [0.5 * i for i in range(8)]
    levels = [90.0, 100.0, 100.4, 100.2, 100.1, 100.3, 100.0, 100.2]
    found = settled(times, levels, RULE)
    window = sorted(levels[found.first :])
    assert levels[found.pick] == window[(len(window) - 1) // 2]


@pytest.mark.parametrize("name", ["osterfell-base", "osterfell-server", "workstation"])
def test_memory_definitions_from_one_recorded_instant(name):
    figures = parse_meminfo((DATA / "meminfo" / f"{name}.txt").read_text())
    use = memory_use(figures)
    assert use.used == figures["MemTotal"] - figures["MemAvailable"]
    free_and_caches = figures["MemFree"] + figures["Buffers"] + figures["Cached"]
    expected = figures["MemTotal"] - free_and_caches - figures["SReclaimable"] + figures["Shmem"]
    assert use.used_nocache == expected
    assert use.swap_used == figures["SwapTotal"] - figures["SwapFree"]


def test_a_missing_figure_is_named_and_nothing_filled_in():
    with pytest.raises(UnreadableError, match="MemAvailable"):
        memory_use({"MemTotal": 1, "MemFree": 1, "Buffers": 0, "Cached": 0, "SReclaimable": 0})
