import pytest

from haremile.rigs.guest import host_watch
from haremile.rigs.guest.host_watch import HostWatch, wait_until_calm

TEXT = "some avg10=1.00 avg60=0.50 avg300=0.10 total={}\nfull avg10=0.00 avg60=0.00 total=0\n"


@pytest.fixture
def clock(monkeypatch):
    now = [50.0]
    monkeypatch.setattr(host_watch.time, "monotonic", lambda: now[0])
    return now


def test_the_share_is_of_the_time_since_the_run_began(tmp_path, clock):
    (tmp_path / "pressure").mkdir()
    pressure = tmp_path / "pressure" / "cpu"
    pressure.write_text(TEXT.format(7_000_000))
    watch = HostWatch(tmp_path, tmp_path)
    pressure.write_text(TEXT.format(9_500_000))
    clock[0] += 10.0
    assert watch.share() == pytest.approx(0.25)
    assert watch.conditions() == {"host_wait": "25 %"}


def test_a_kernel_that_does_not_tell_states_nothing(tmp_path, clock):
    watch = HostWatch(tmp_path, tmp_path)
    clock[0] += 10.0
    assert watch.conditions() == {}


def test_stolen_time_and_a_hot_processor_are_told_apart_from_waiting(tmp_path, clock):
    stat = tmp_path / "stat"
    heat = tmp_path / "devices/system/cpu/cpu0/thermal_throttle/core_throttle_count"
    heat.parent.mkdir(parents=True)
    stat.write_text("cpu  100 0 0 900 0 0 0 0 0 0\n")
    heat.write_text("3\n")
    watch = HostWatch(tmp_path, tmp_path)
    clock[0] += 10.0
    stat.write_text("cpu  150 0 0 930 0 0 0 20 0 0\n")
    assert watch.conditions() == {"host_steal": "20 %", "throttled": "no"}
    heat.write_text("4\n")
    assert watch.conditions()["throttled"] == "yes"


class Watched:
    def __init__(self, shares):
        self.shares = iter(shares)

    def share(self):
        return next(self.shares)


@pytest.mark.parametrize(
    ("shares", "most_s", "is_calm", "looks"),
    [
        ([0.5, 0.3, 0.05], 60.0, True, [2.0, 4.0]),
        ([0.5, 0.5], 4.0, False, [2.0, 4.0]),
        ([None], 60.0, True, []),
        ([], 0.0, True, []),
    ],
)
def test_a_boot_waits_until_the_host_is_calm_but_not_for_ever(shares, most_s, is_calm, looks):
    watched, said = Watched(shares), []
    calm = wait_until_calm(most_s, said.append, lambda: watched, lambda seconds: None)
    assert (calm, said) == (is_calm, looks)
