import numpy as np
import pytest

from haremile.core.statistics.noise import NoiseSource, noise_budget
from haremile.errors import SampleError

SYSTEMS = ("Varrow", "Varrow", "Quillfern", "Quillfern")


def drawn(generator, blocks=30, of_blocks=0.6, of_installs=0.8, of_runs=0.4, systems=SYSTEMS):
    table = of_blocks * generator.normal(size=(blocks, 1))
    table = table + of_installs * generator.normal(size=len(systems))
    return table + of_runs * generator.normal(size=(blocks, len(systems)))


def part(found, source):
    return next(one for one in found.parts if one.source is source)


def test_each_parts_interval_holds_what_was_put_in_and_they_add_up():
    generator = np.random.default_rng(3)
    truth = {NoiseSource.BLOCKS: 0.6, NoiseSource.INSTALLS: 0.8, NoiseSource.RUNS: 0.4}
    held, draws = dict.fromkeys(truth, 0), 400
    for _ in range(draws):
        found = noise_budget(drawn(generator), SYSTEMS)
        assert sum(one.share for one in found.parts) == pytest.approx(1.0)
        for source, sd in truth.items():
            limits = part(found, source).interval
            held[source] += limits.low <= sd <= limits.high
    assert all(0.92 < count / draws < 0.985 for count in held.values())


def test_who_stands_on_one_install_tells_nothing_of_installs():
    table = drawn(np.random.default_rng(4), systems=("A", "B", "C"))
    found = noise_budget(table, ("A", "B", "C"))
    assert part(found, NoiseSource.INSTALLS).sd is None
    assert found.variance(NoiseSource.INSTALLS) is None
    assert found.variance(NoiseSource.RUNS) > 0.0


def test_one_lane_cannot_part_blocks_from_runs():
    found = noise_budget(drawn(np.random.default_rng(5), systems=("A",)), ("A",))
    assert part(found, NoiseSource.BLOCKS).sd is None
    assert part(found, NoiseSource.RUNS).share == 1.0


def test_lanes_that_do_not_vary_have_no_noise():
    found = noise_budget(np.full((5, 2), 3.0), ("A", "B"))
    assert part(found, NoiseSource.RUNS).sd == 0.0
    assert part(found, NoiseSource.RUNS).share is None


def test_a_run_that_resembles_its_neighbour_is_seen_and_one_that_does_not_is_not():
    generator = np.random.default_rng(6)
    places = np.argsort(generator.random((60, 6)), axis=1)
    alone = generator.normal(size=(60, 6))
    steady = alone.copy()
    for place in range(1, 6):
        steady[:, place] = 0.7 * steady[:, place - 1] + 0.7 * alone[:, place]
    for in_order, is_like in ((alone, False), (steady, True)):
        table = np.take_along_axis(in_order, places, axis=1)
        limits = noise_budget(table, range(6), places.astype(float)).likeness
        assert (limits.low > 0.0) is is_like


@pytest.mark.parametrize("table", [np.ones((2, 2)), np.array([[1.0, np.inf]] * 4)])
def test_noise_takes_three_whole_blocks(table):
    with pytest.raises(SampleError):
        noise_budget(table, ("A", "B"))
