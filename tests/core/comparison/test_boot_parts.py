import numpy as np
import pytest

from haremile.core.comparison.boot_parts import (
    REST,
    PartSource,
    boot_parts,
    part_sources,
    with_rest,
)

KERNEL, USER = ("boot.kernel", "systemd"), ("boot.userspace", "systemd")
LOG = ("boot.kernel", "kernel-log")


def boots(n, kernel, user, **more):
    generator = np.random.default_rng(3)
    return [
        {KERNEL: kernel + generator.normal(0, 0.1), USER: user + generator.normal(0, 0.3), **more}
        for _ in range(n)
    ]


def test_parts_are_taken_by_a_method_that_every_boot_has():
    with_log = [{**run, LOG: 1.0} for run in boots(5, 3.0, 9.0)]
    assert part_sources([with_log, boots(5, 3.0, 9.0)]) == (
        PartSource("boot.kernel", "systemd"),
        PartSource("boot.userspace", "systemd"),
    )
    only_log = [{LOG: 1.0}] * 3
    assert part_sources([with_log, only_log]) == (PartSource("boot.kernel", "kernel-log"),)
    assert part_sources([]) == ()


def test_boundaries_are_medians_of_sums_and_their_intervals_enclose_them():
    runs = boots(15, 3.0, 9.0)
    sources = part_sources([runs])
    kernel, user = boot_parts(runs, sources)
    assert kernel.start == 0.0
    assert kernel.end == user.start == pytest.approx(np.median([run[KERNEL] for run in runs]))
    totals = [run[KERNEL] + run[USER] for run in runs]
    assert user.end == pytest.approx(np.median(totals))
    assert user.end_interval.low < user.end < user.end_interval.high


def test_few_boots_have_no_interval_and_none_has_no_parts():
    runs = boots(3, 3.0, 9.0)
    assert boot_parts(runs, part_sources([runs]))[0].end_interval is None
    assert boot_parts([], part_sources([runs])) == ()


def test_what_no_part_names_is_named_and_all_together_are_the_whole():
    total = ("boot.total", "host-marker")
    runs = [{**run, total: run[KERNEL] + run[USER] + 2.5} for run in boots(9, 3.0, 9.0)]
    sources = with_rest([runs], part_sources([runs]))
    assert sources[-1] == PartSource(REST, "host-marker")
    *_, rest = boot_parts(runs, sources)
    assert rest.end - rest.start == pytest.approx(2.5, abs=0.2)
    assert rest.end == pytest.approx(np.median([run[total] for run in runs]), abs=1e-9)


@pytest.mark.parametrize("beyond_s", [0.01, -3.0])
def test_nothing_is_left_where_the_parts_are_the_whole_or_more(beyond_s):
    total = ("boot.total", "host-marker")
    runs = [{**run, total: run[KERNEL] + run[USER] + beyond_s} for run in boots(9, 3.0, 9.0)]
    named = part_sources([runs])
    assert with_rest([runs], named) == named
    assert with_rest([boots(9, 3.0, 9.0)], named) == named
