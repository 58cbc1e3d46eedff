"""Sleep and waking against stand-ins of the kernel's clocks and files, and of the login service:
this machine cannot sleep. Each value is known, and is recovered exactly."""

import pytest

from haremile.processes import child_environment
from haremile_probe.collect.sleep import read_sleep
from haremile_probe.collect.sources import Sources
from haremile_probe.helper import verbs
from haremile_probe.helper.verbs import Asker, VerbError, done
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.sleep import entering_s
from helpers import running
from login_service import login_service

BATTERY = {
    "type": "Battery",
    "status": "Discharging",
    "energy_full": "40000000",
    "power_now": "5000000",
}
LOG = """6,1,1000000,-;something before
6,2,60000000,-;PM: suspend entry (deep)
6,3,60400000,-;PM: suspend devices took 0.300 seconds
6,4,61250000,-;ACPI: PM: Waking up from system sleep state S3
6,5,62000000,-;PM: suspend exit
"""


class StandIn:
    """Falls asleep in 1.25 s, sleeps, and is back 2.4 s after the alarm, of which 0.75 s run by the
    kernel's clock. The clock that wakes it is 7 s before the clock of the day."""

    def __init__(self, root, asleep_s=28.0, lost_wh=0.01):
        self.root, self.asleep_s, self.lost = root, asleep_s, lost_wh
        self.hold(36.0)

    def hold(self, watt_hours):
        folder = self.root / "sys/class/power_supply/BAT0"
        folder.mkdir(parents=True, exist_ok=True)
        for name, text in {**BATTERY, "energy_now": str(round(watt_hours * 1e6))}.items():
            (folder / name).write_text(text + "\n")

    def suspend(self, seconds):
        self.hold(36.0 - self.lost)
        ordered, ran = 5000.0, 2.0
        after = {
            "realtime": ordered + ran + self.asleep_s,
            "monotonic": 100.0 + ran,
            "boottime": 100.0 + ran + self.asleep_s,
        }
        return {
            "away_s": ran + self.asleep_s,
            "before": {"realtime": ordered, "monotonic": 100.0, "boottime": 100.0},
            "after": after,
            "alarm": int(after["realtime"] - 2.4 + 7.4),
            "tick": {"epoch": 4000.0, "realtime": 3993.0},
        }


def captured(stand_in, answered=None, log=LOG):
    sources = Sources(str(stand_in.root))
    read_sleep(sources, 30, stand_in.suspend, lambda text: None, answered)
    sources.add("kernel-log", log)
    account = account_of("sleep", sources.records, sources.faults)
    return capture_of(account, "sleep", "x", "now", "Laptop", "Varrow 12")


def values(capture):
    return {one.metric: one.value for one in capture.readings}


def test_times_of_a_known_sleep_are_recovered(tmp_path):
    found = values(captured(StandIn(tmp_path), lambda woken: woken + 0.8))
    assert found["sleep.enter"] == pytest.approx(1.25)
    assert found["sleep.wake"] == pytest.approx(2.0)
    assert found["sleep.task"] == pytest.approx(2.8)
    assert found["sleep.drain"] == pytest.approx(0.01 / 40.0 * 86400 / 28.0, rel=1e-6)


def test_what_is_not_known_is_absent_and_never_a_default(tmp_path):
    found = values(captured(StandIn(tmp_path), lambda woken: None, log="6,1,1000000,-;quiet\n"))
    assert "sleep.enter" not in found
    assert "sleep.task" not in found
    assert found["sleep.wake"] == pytest.approx(2.0)


def test_a_loss_beyond_a_whole_battery_a_day_is_no_value(tmp_path):
    capture = captured(StandIn(tmp_path, lost_wh=0.1))
    assert "sleep.drain" not in values(capture)
    assert "a longer sleep tells it better" in capture.faults[-1].what


def test_one_that_wakes_at_once_failed(tmp_path):
    capture = captured(StandIn(tmp_path, asleep_s=0.4))
    assert (capture.outcome, capture.readings) == ("failed", [])
    assert "did not stay asleep" in capture.reason


@pytest.mark.parametrize(
    ("error", "kind"),
    [(PermissionError("no helper"), "denied"), (FileNotFoundError("no clock"), "absent")],
)
def test_a_machine_that_cannot_sleep_says_why(tmp_path, error, kind):
    def refused(seconds):
        raise error

    stand_in = StandIn(tmp_path)
    stand_in.suspend = refused
    capture = captured(stand_in)
    assert capture.outcome == "could-not-measure"
    assert any(one.kind == kind and str(error) in one.what for one in capture.faults)


def test_of_several_sleeps_the_last_counts_and_one_cut_short_does_not():
    again = LOG + "6,9,90000000,-;PM: suspend entry (deep)\n"
    assert entering_s(again) == pytest.approx(1.25)
    assert entering_s(again + "6,9,90500000,-;PM: suspend exit\n") == pytest.approx(0.5)
    assert entering_s("") is None


def test_the_helper_tells_every_clock_and_the_alarm(tmp_path):
    clock = tmp_path / "sys/class/rtc/rtc0"
    clock.mkdir(parents=True)
    (clock / "wakealarm").write_text("1790000060\n")
    (clock / "since_epoch").write_text("1790000000\n")
    (tmp_path / "sys/power").mkdir()
    (tmp_path / "sys/power/state").write_text("")
    told = done("suspend", Asker(1000), {"seconds": 60}, str(tmp_path))
    assert (tmp_path / "sys/power/state").read_text() == "mem"
    assert (clock / "wakealarm").read_text() == "+60"
    assert told["tick"] is None, "a clock that stands still is no clock"
    assert told["after"]["boottime"] >= told["before"]["boottime"]
    assert told["alarm"] is None, "what was written is no instant"


@pytest.fixture
def system_bus(tmp_path, monkeypatch):
    """A bus that stands for the system's own, and the files of a machine that can sleep."""
    clock = tmp_path / "sys/class/rtc/rtc0"
    clock.mkdir(parents=True)
    (clock / "wakealarm").write_text("1790000060\n")
    words = ["dbus-daemon", "--session", "--nofork", "--print-address"]
    with running(words, {**child_environment(), "XDG_RUNTIME_DIR": str(tmp_path)}) as daemon:
        address = daemon.stdout.readline().strip()
        monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", address)
        yield address


def sleep_by_service(root):
    return done("suspend", Asker(0), {"seconds": 60, "through": "login-service"}, str(root))


def test_the_login_service_sends_it_to_sleep_and_tells_when_the_session_is_back(
    tmp_path, system_bus, monkeypatch
):
    with login_service(system_bus) as service:
        monkeypatch.setattr(verbs, "_clocks", service.clocks)
        told = sleep_by_service(tmp_path)
    assert not (tmp_path / "sys/power/state").exists(), "the kernel was not asked beside it"
    assert told["after"]["boottime"] - told["after"]["monotonic"] == pytest.approx(
        28.0 + told["before"]["boottime"] - told["before"]["monotonic"], abs=0.01
    )
    assert told["session"] >= service.told_at
    assert told["session"] - told["after"]["monotonic"] >= 0.25, "it slept before it told"


def test_a_login_service_that_refuses_says_why(tmp_path, system_bus):
    refusing = login_service(system_bus, refuses="an update is being written")
    with refusing, pytest.raises(OSError, match="an update is being written"):
        sleep_by_service(tmp_path)


def test_a_machine_without_a_login_service_says_so(tmp_path, system_bus, monkeypatch):
    with pytest.raises(OSError, match="the login service"):
        sleep_by_service(tmp_path)
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", f"unix:path={tmp_path}/none")
    with pytest.raises(OSError, match="no login service"):
        sleep_by_service(tmp_path)
    with pytest.raises(VerbError, match="through kernel or login-service"):
        done("suspend", Asker(0), {"seconds": 60, "through": "the lid"}, str(tmp_path))


def test_the_session_is_back_when_the_service_says_so(tmp_path):
    stand_in = StandIn(tmp_path)
    by_kernel = stand_in.suspend

    def through_service(seconds):
        told = by_kernel(seconds)
        return {**told, "session": told["after"]["monotonic"] + 0.55, "through": "login-service"}

    stand_in.suspend = through_service
    capture = captured(stand_in)
    assert values(capture)["sleep.session"] == pytest.approx(2.55)
    ways = {one.metric: one.method for one in capture.readings}
    assert ways["sleep.session"] == ways["sleep.wake"] == "login-service"
