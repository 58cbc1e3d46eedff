import re

import numpy as np

from haremile.core.records.units import scale_for
from haremile.core.statistics.noise import noise_budget
from haremile.core.wording.noise import noise_advice, noise_headline

SCALE = scale_for("s", 0.5)


def budget(of_blocks, systems=("A", "B", "C"), of_installs=0.0):
    generator = np.random.default_rng(8)
    table = of_blocks * generator.normal(size=(20, 1)) + generator.normal(size=(20, len(systems)))
    table += of_installs * np.arange(len(systems))
    places = np.argsort(generator.random(table.shape), axis=1).astype(float)
    return noise_budget(table, systems, places)


def said(found, seconds=None):
    return " ".join(noise_advice(found, SCALE, seconds or {"boot": 95.0}, "boot"))


def test_blocks_that_differ_are_said_with_the_repeats_they_spare():
    assert "between blocks" in noise_headline(budget(3.0))
    assert "compared within them, 20 blocks tell what" in said(budget(3.0))
    assert noise_headline(budget(0.0)).endswith("from run to run")
    assert "Blocks are nearly alike" in said(budget(0.0))


def test_installs_are_weighed_where_there_are_several_and_asked_for_where_not():
    assert "a second install of one system would" in said(budget(0.0))
    assert "nearly alike: two of each" in said(budget(0.0, ("A", "A", "B")))
    told = said(budget(0.0, ("A", "A", "B"), of_installs=0.5))
    assert "on two installs of each system" in told
    split, now = re.findall(r"vary by (\S+) s instead of (\S+) s", told)[0]
    assert float(split) < float(now)


def test_the_time_of_a_block_is_told_by_what_takes_it():
    assert "Boots take 95 s each" in said(budget(0.0))
    told = said(budget(0.0), {"boot": 30.0, "idle": 90.0})
    assert "take 75 % of the time of a block" in told


def test_lanes_that_do_not_vary_are_said_to():
    found = noise_budget(np.full((5, 2), 3.0), ("A", "B"))
    assert noise_headline(found) == "The readings do not vary"
