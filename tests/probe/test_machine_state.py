"""Heat, frequency and throttling beside a run, against a stand-in of the kernel's files."""

import pytest

from haremile_probe.collect.machine_state import StateWatch
from haremile_probe.collect.sources import Sources
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.machine_state import parse_looks
from haremile_probe.main import main
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import Record, load_capture

ZONE = "sys/class/thermal/thermal_zone%d/temp"
FREQUENCY = "sys/devices/system/cpu/cpu%d/cpufreq/scaling_cur_freq"
THROTTLES = "sys/devices/system/cpu/cpu%d/thermal_throttle/core_throttle_count"


def put(root, path, text):
    place = root / path
    place.parent.mkdir(parents=True, exist_ok=True)
    place.write_text(f"{text}\n")


@pytest.fixture
def hot(tmp_path):
    """A machine of two processors whose second zone is the hottest."""
    for number, (heat, khz, count) in enumerate([(41_000, 1_200_000, 3), (63_500, 2_400_000, 4)]):
        put(tmp_path, ZONE % number, heat)
        put(tmp_path, FREQUENCY % number, khz)
        put(tmp_path, THROTTLES % number, count)
    return tmp_path


def curves(sources):
    account = account_of("launch", sources.records, sources.faults)
    capture = capture_of(account, "launch", "x", "now", "Bench", "Varrow 12")
    return {one.metric: one for one in capture.traces}, account


def test_the_kernels_files_are_told_as_curves_of_the_run(hot):
    sources = Sources(str(hot))
    watch = StateWatch(sources, every_s=3600.0)
    put(hot, ZONE % 0, 71_250)
    put(hot, THROTTLES % 1, 9)
    watch.end()
    found, _ = curves(sources)
    assert found["machine.temperature"].values == [63.5, 71.25]
    assert found["machine.frequency"].values == [1.8e9, 1.8e9]
    assert found["machine.throttled"].values == [0.0, 5.0]
    times = found["machine.temperature"].times_s
    assert 0.0 <= times[0] <= times[1]


def test_a_zone_that_is_switched_off_leaves_the_others(hot):
    put(hot, ZONE % 1, "")
    sources = Sources(str(hot))
    StateWatch(sources, every_s=3600.0).end()
    found, _ = curves(sources)
    assert set(found["machine.temperature"].values) == {41.0}


def test_a_machine_that_tells_none_of_it_has_the_reasons(tmp_path):
    sources = Sources(str(tmp_path))
    StateWatch(sources, every_s=3600.0).end()
    found, account = curves(sources)
    assert found == {}
    assert "no thermal zone" in account.facts["machine_state_lacks"]["machine.temperature"]
    assert sources.faults == []


def test_sensors_of_chips_stand_in_where_there_is_no_zone(tmp_path):
    put(tmp_path, "sys/class/hwmon/hwmon0/temp1_input", 48_000)
    sources = Sources(str(tmp_path))
    StateWatch(sources, every_s=3600.0).end()
    found, _ = curves(sources)
    assert found["machine.temperature"].values == [48.0, 48.0]


def test_a_long_run_keeps_every_second_look_and_its_ends(hot):
    sources = Sources(str(hot))
    watch = StateWatch(sources, every_s=1e-4)
    while watch._thread.is_alive() and watch._every_s < 1e-3:
        put(hot, ZONE % 0, 50_000)  # it thins out by itself
    watch.end()
    looks = parse_looks(sources.records[-1].text)
    assert len(looks) <= 602


@pytest.mark.parametrize(
    "text",
    [
        "0.0 1 2",
        "0.0 1 2 3 4",
        "0.0 hot 2 3",
        "2.0 1 2 3\n1.0 1 2 3",
        "0.0 900000 2 3",
        "nan 1 2 3",
        "0.0 1 2 3\n" * 10_001,
    ],
)
def test_what_is_no_look_at_the_machine_is_never_guessed(text):
    with pytest.raises(UnreadableError):
        parse_looks(text)
    account = account_of("launch", [Record("machine-state", 1.0, text)])
    assert account.traces == []
    assert any("machine-state" in fault.what for fault in account.faults)


def test_every_measure_has_it_beside_its_readings(capsys):
    words = ["footprint", "--json", "--quiet", "--system", "Varrow 12", "--no-walk", "--no-updates"]
    assert main(words) == 0
    capture = load_capture(capsys.readouterr().out.encode())
    looks = parse_looks(capture.text_of("machine-state"))
    assert len(looks) >= 2
