import pytest

from haremile.rigs.guest import host_watch
from haremile.rigs.guest.host_watch import HostWatch

TEXT = "some avg10=1.00 avg60=0.50 avg300=0.10 total={}\nfull avg10=0.00 avg60=0.00 total=0\n"


@pytest.fixture
def clock(monkeypatch):
    now = [50.0]
    monkeypatch.setattr(host_watch.time, "monotonic", lambda: now[0])
    return now


def test_the_share_is_of_the_time_since_the_run_began(tmp_path, clock):
    pressure = tmp_path / "cpu"
    pressure.write_text(TEXT.format(7_000_000))
    watch = HostWatch(pressure)
    pressure.write_text(TEXT.format(9_500_000))
    clock[0] += 10.0
    assert watch.share() == pytest.approx(0.25)
    assert watch.conditions() == {"host_wait": "25 %"}


def test_a_kernel_that_does_not_tell_states_nothing(tmp_path, clock):
    watch = HostWatch(tmp_path / "none")
    clock[0] += 10.0
    assert watch.conditions() == {}
