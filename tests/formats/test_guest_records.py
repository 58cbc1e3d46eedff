from haremile.formats.guest_records import MeminfoWatch, add_idle_readings
from haremile_probe.wire import Evidence
from helpers import DATA, capture_for, install, order

BASE = (DATA / "meminfo" / "osterfell-base.txt").read_text()


def recorded(**texts):
    capture = capture_for(order(install("Osterfell Base")))
    capture.evidence = [Evidence(name, text) for name, text in texts.items()]
    add_idle_readings(capture)
    return capture


def test_every_definition_comes_from_the_recorded_evidence():
    capture = recorded(
        meminfo=BASE,
        processes=(DATA / "processes" / "osterfell-base.txt").read_text(),
        filesystem="block_size=4096 blocks=26745 free=26179\n",
    )
    values = {reading.metric: reading.value for reading in capture.readings}
    assert values["process.count"] == 2
    assert values["thread.count"] == 2
    assert values["disk.used"] == 566 * 4096
    assert values["memory.used"] > values["memory.used_nocache"] > 0
    assert capture.faults == []


def test_what_is_absent_or_unreadable_is_a_fault_and_no_reading():
    capture = recorded(meminfo="MemTotal: lots", processes="")
    kinds = {(fault.kind, fault.what.partition(":")[0]) for fault in capture.faults}
    assert kinds == {("unreadable", "meminfo"), ("absent", "filesystem")}
    assert "memory.used" not in {reading.metric for reading in capture.readings}


def test_the_watch_settles_on_a_still_curve_and_keeps_it_all():
    watch = MeminfoWatch()
    told = [watch.add(0.5 * i, BASE) for i in range(8)]
    assert told.index(True) == 6
    assert watch.picked() == BASE
    assert len(watch.trace().values) == 8
    assert "window 3 s" in watch.rule_text
