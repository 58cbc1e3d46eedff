"""Battery, fan and storage against a small stand-in of the kernel's files: this machine has none of
them. Each value is known, and is recovered exactly."""

import pytest

from haremile_probe.collect.power import PowerPlan, read_power
from haremile_probe.collect.sources import Sources
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.power import parse_batteries, parse_storage

BATTERY = "sys/class/power_supply/BAT0"
FAN = "sys/class/hwmon/hwmon3/fan1_input"
DISKS = """   8       0 sda 100 0 {read} 10 50 0 {written} 20 0 30 40
   8       1 sda1 100 0 999999 10 50 0 999999 20 0 30 40
   7       0 loop0 5 0 40 1 0 0 0 0 0 1 1
"""


class StandIn:
    """A laptop whose files change as time goes on: it gives `watts`, and its fan turns in a share
    of the looks. Time goes on by sleeping alone."""

    def __init__(self, root, watts=(7.2,), full_wh=36.0, design_wh=48.0, is_charge=False):
        self.root, self.watts, self.is_charge = root, watts, is_charge
        self.full, self.design, self.at, self.looks = full_wh, design_wh, 1000.0, 0
        self.energy = full_wh
        self.put("type", "Battery")
        self.put("status", "Discharging")
        self.show()

    def put(self, name, value, folder=BATTERY):
        path = self.root / folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"{value}\n")

    def show(self):
        watts = self.watts[self.looks % len(self.watts)]
        held = {"now": self.energy, "full": self.full, "full_design": self.design}
        if self.is_charge:
            self.put("voltage_now", 12_000_000)
            self.put("voltage_min_design", 12_000_000)
            self.put("current_now", round(watts / 12.0 * 1e6))
        else:
            self.put("power_now", round(watts * 1e6))
        kind, volts = ("charge", 12.0) if self.is_charge else ("energy", 1.0)
        for name, value in held.items():
            self.put(f"{kind}_{name}", round(value * 1e6 / volts))
        self.put("fan1_input", 2100 if self.looks % 4 == 0 else 0, "sys/class/hwmon/hwmon3")
        counted = DISKS.format(read=2048 + 20 * self.looks, written=4096 + 20 * self.looks)
        (self.root / "proc").mkdir(exist_ok=True)
        (self.root / "proc/diskstats").write_text(counted)

    def clock(self):
        return self.at

    def sleep(self, seconds):
        self.energy -= self.watts[self.looks % len(self.watts)] * seconds / 3600.0
        self.at += seconds
        self.looks += 1
        self.show()


def watched(stand_in, use="idle", seconds=600.0, turn=lambda at: None):
    sources = Sources(str(stand_in.root), stand_in.clock)
    plan = PowerPlan(seconds, 10.0)
    read_power(sources, plan, use, lambda text: None, stand_in.sleep, turn)
    account = account_of("power", sources.records, sources.faults)
    return account, capture_of(account, "power", "x", "now", "Laptop", "Varrow 12")


def values(capture):
    return {one.metric: one.value for one in capture.readings}


@pytest.mark.parametrize("is_charge", [False, True])
def test_a_battery_of_known_size_and_load_lasts_as_long_as_it_must(tmp_path, is_charge):
    account, capture = watched(StandIn(tmp_path, is_charge=is_charge))
    found = values(capture)
    assert found["power.idle"] == pytest.approx(5 * 3600.0)
    assert found["power.wear"] == pytest.approx(0.25)
    assert found["power.fan"] == pytest.approx(16 / 61)
    assert found["power.storage"] == pytest.approx(40 * 512 / 10.0)
    low, high = account.facts["power"]["lasts_s"]
    assert low == pytest.approx(high) == pytest.approx(5 * 3600.0)


def test_power_that_swings_gives_an_interval_that_holds_the_mean(tmp_path):
    watts = (6.0, 9.0, 6.5, 7.3, 8.1, 6.2, 7.7, 9.4, 5.8)
    account, capture = watched(StandIn(tmp_path, watts), seconds=710.0)
    meant = 36.0 * 3600.0 / (sum(watts) / len(watts))
    assert values(capture)["power.idle"] == pytest.approx(meant)
    low, high = account.facts["power"]["lasts_s"]
    assert low < meant < high
    assert high / low < 1.2


def test_without_power_readings_the_energy_that_is_gone_tells(tmp_path):
    stand_in = StandIn(tmp_path)
    put = stand_in.put
    stand_in.put = lambda name, *more: None if name == "power_now" else put(name, *more)
    (tmp_path / BATTERY / "power_now").unlink()
    account, capture = watched(stand_in)
    assert values(capture)["power.idle"] == pytest.approx(5 * 3600.0, rel=1e-5)
    assert "lasts_s" not in account.facts["power"]


def test_the_use_is_part_of_the_measure_and_pages_are_turned_meanwhile(tmp_path):
    turned = []
    _, capture = watched(StandIn(tmp_path), "pages", 100.0, turned.append)
    assert "power.pages" in values(capture)
    assert turned == [10.0 * n for n in range(10)]


def test_on_mains_or_without_a_battery_the_reason_is_told(tmp_path):
    (tmp_path / "desktop").mkdir()
    (tmp_path / "desktop/proc").mkdir()
    (tmp_path / "desktop/proc/diskstats").write_text(DISKS.format(read=1, written=1))
    sources = Sources(str(tmp_path / "desktop"), lambda: 1.0)
    read_power(sources, PowerPlan(), "idle", lambda text: None)
    assert "has no battery" in sources.faults[-1].what
    stand_in = StandIn(tmp_path / "laptop")
    stand_in.put("status", "Charging")
    _, capture = watched(stand_in)
    assert capture.outcome == "could-not-measure"
    assert "unplug the machine" in capture.reason


def test_two_batteries_are_one_and_a_mouse_is_none():
    def supply(name, **more):
        base = f"/sys/class/power_supply/{name}/"
        kept = {"type": "Battery", "status": "Discharging", **more}
        return {base + key: value for key, value in kept.items()}

    first = supply("BAT0", energy_now="1000000", energy_full="2000000", power_now="5000000")
    second = supply("BAT1", energy_now="2000000", energy_full="3000000", power_now="0")
    mouse = supply("hid-1", scope="Device", energy_now="1", energy_full="1")
    found = parse_batteries({**first, **second, **mouse})
    assert (found.energy, found.full, found.power) == (3 * 3600.0, 5 * 3600.0, 5.0)
    assert found.design is None
    assert parse_batteries(mouse) is None
    assert parse_batteries(supply("BAT0", energy_now="full")) is None


def test_what_is_no_disk_statistics_is_never_guessed():
    assert parse_storage(DISKS.format(read=10, written=30)) == 40 * 512.0
    with pytest.raises(UnreadableError, match="not a line of disk statistics"):
        parse_storage("8 0 sda nonsense\n")
