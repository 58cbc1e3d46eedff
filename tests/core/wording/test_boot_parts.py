import re

import numpy as np

from haremile.core.comparison.boot_parts import REST, PartSource, boot_parts
from haremile.core.comparison.records import Observation, Plan
from haremile.core.wording.boot_parts import boot_parts_text, part_label
from helpers import worded

KERNEL, USER = ("boot.kernel", "systemd"), ("boot.userspace", "systemd")
SOURCES = (PartSource(*KERNEL), PartSource(*USER))
NAMES = {1: "Varrow 12 Tarnwick", 2: "Quillfern 8 Tarnwick"}


def said(medians, spread=0.1, names=NAMES):
    """The words on lanes with these medians of the kernel's and of userspace's length."""
    generator = np.random.default_rng(8)
    lanes, seen = {}, []
    for lane, centre in medians.items():
        values = generator.normal(centre, spread, (12, 2))
        runs = [{KERNEL: kernel, USER: user} for kernel, user in values]
        lanes[lane] = boot_parts(runs, SOURCES)
        seen += [
            Observation(lane, "Bench", metric, method, value, {}, "boot")
            for run in runs
            for (metric, method), value in run.items()
        ]
    rows = worded(names, seen, [], Plan({})).rows
    return boot_parts_text(lanes, SOURCES, rows, names)


def test_the_part_that_tells_them_apart_is_named():
    headline, sentence = said({1: (2.0, 10.0), 2: (2.1, 14.0)})
    assert re.fullmatch(r"It lies in userspace to ready: up to (3\.9|4\.0|4\.1) s apart", headline)
    assert "s for Varrow 12 Tarnwick, 1" in sentence
    assert sentence.endswith("s for Quillfern 8 Tarnwick.")


def test_what_no_verdict_bears_out_is_no_headline():
    headline, sentence = said({1: (2.0, 10.0), 2: (2.1, 11.0)}, spread=4.0)
    assert headline.startswith("Undecided")
    assert "no verdict tells the contenders apart" in sentence


def test_one_contender_is_compared_with_nobody():
    assert said({1: (2.0, 10.0)}, names={1: "Varrow 12 Tarnwick"})[0] == "One contender so far"


def test_what_is_left_over_says_that_no_record_has_it():
    assert part_label(REST) == "In no record"
    assert part_label("boot.kernel") == "Kernel"
