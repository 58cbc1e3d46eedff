"""What is told of the texts of an idle machine, and what is not told of them."""

import pytest

from haremile_probe.interpret.account import Account
from haremile_probe.interpret.idle import parse_counts, tell
from haremile_probe.parsers.settling import SettleRule
from haremile_probe.wire import Record

KIB = 1024.0
RULE = SettleRule(window_s=10.0, slope_share=0.01, range_share=0.05, timeout_s=60.0)


def meminfo(available, total=2_000_000, swap_free=500_000):
    lines = {
        "MemTotal": total,
        "MemFree": available - 100_000,
        "MemAvailable": available,
        "Buffers": 20_000,
        "Cached": 90_000,
        "SReclaimable": 10_000,
        "Shmem": 5_000,
        "SwapTotal": 500_000,
        "SwapFree": swap_free,
    }
    return "".join(f"{name}: {value} kB\n" for name, value in lines.items())


def watched(levels, start=30.0):
    """Memory in use every two seconds, KiB, with the rule by which it is watched."""
    return [
        Record("settle-rule", start, RULE.record),
        *(
            Record("meminfo", start + 2.0 * place, meminfo(2_000_000 - level))
            for place, level in enumerate(levels)
        ),
    ]


def told(records):
    account = Account(records)
    tell(account)
    return account


def readings_of(account):
    return {reading.metric: reading.value for reading in account.readings}


FALLING = [900_000, 700_000, 600_000]
STILL = [500_000, 500_400, 500_200, 500_100, 500_300, 500_200]


def test_all_definitions_are_read_from_one_instant_of_the_settled_window():
    account = told(watched([*FALLING, *STILL]))
    found = readings_of(account)
    assert found["memory.used"] == 500_200 * KIB
    assert found["memory.used_nocache"] == (2_000_000 - (1_499_800 - 100_000) - 115_000) * KIB
    assert found["memory.swap_used"] == 0.0
    assert account.faults == []
    assert account.conditions["settle_rule"] == RULE.text


def test_the_curve_is_kept_whole():
    account = told(watched([*FALLING, *STILL]))
    (trace,) = account.traces
    assert trace.values[0] == 900_000 * KIB
    assert list(trace.times_s) == [30.0 + 2.0 * place for place in range(9)]
    assert account.conditions["since_boot"] == f"{account.facts['settled_at_s']:.0f} s"


def test_memory_that_never_settles_is_a_fault_and_no_reading():
    account = told(watched([900_000, 700_000, 500_000, 300_000, 600_000, 800_000]))
    assert [fault.kind for fault in account.faults] == ["timed-out"]
    assert "did not settle" in account.faults[0].what
    assert "memory.used" not in readings_of(account)
    assert len(account.traces) == 1, "the curve shows why"


def test_a_garbled_sample_leaves_no_reading_at_all():
    records = [*watched([*FALLING, *STILL]), Record("meminfo", 90.0, "MemTotal: many kB\n")]
    account = told(records)
    assert readings_of(account) == {}
    assert [fault.kind for fault in account.faults] == ["unreadable"]


def test_without_a_rule_nothing_is_told():
    assert told(watched(STILL)[1:]).readings == []


def test_stated_instants_are_readings_of_their_own_beside_the_settled_one():
    records = [
        *watched([*FALLING, *STILL]),
        Record("meminfo-at-60", 60.0, meminfo(1_400_000)),
        Record("meminfo-at-180", 180.0, meminfo(1_450_000)),
    ]
    at = {
        (reading.step, reading.conditions["settle_rule"]): reading.value
        for reading in told(records).readings
        if reading.metric == "memory.used" and "settle_rule" in reading.conditions
    }
    assert at == {
        (60, "at 60 s since boot"): 600_000 * KIB,
        (180, "at 180 s since boot"): 550_000 * KIB,
    }


@pytest.mark.parametrize("name", ["meminfo-at-soon", "meminfo-at-"])
def test_an_instant_that_is_no_number_is_a_fault(name):
    account = told([*watched(STILL), Record(name, 60.0, meminfo(1_400_000))])
    assert "unreadable" in [fault.kind for fault in account.faults]


def test_sums_over_processes_are_read_only_where_all_could_be_seen():
    whole = [*watched(STILL), Record("process-memory", 50.0, "pss 1000\nrss 3000\ndenied 0\n")]
    found = readings_of(told(whole))
    assert (found["memory.pss"], found["memory.rss"]) == (1000.0, 3000.0)
    partly = [*watched(STILL), Record("process-memory", 50.0, "pss 1000\nrss 3000\ndenied 4\n")]
    account = told(partly)
    assert "memory.pss" not in readings_of(account)
    assert account.faults[-1].what == "memory.pss: 4 processes of others could not be read"


def process(pid, flags, threads):
    fields = ["S", "1", "1", "1", "0", "-1", str(flags), *["0"] * 4, "5", "7", "0", "0", "20", "0"]
    return f"{pid} (a (b) c) {' '.join([*fields, str(threads), '0', '100'])}\n"


def test_processes_and_threads_are_those_outside_the_kernel():
    text = process(1, 0, 3) + process(2, 0x00200000, 1) + process(40, 0, 2)
    found = readings_of(told([*watched(STILL), Record("processes", 50.0, text)]))
    assert (found["process.count"], found["thread.count"]) == (2.0, 5.0)


def test_compressed_swap_is_summed_over_its_devices():
    text = "/sys/block/z0/mm_stat: 1 2 4096 0\n/sys/block/z1/mm_stat: 1 2 8192 0\n"
    found = readings_of(told([*watched(STILL), Record("compressed-swap", 50.0, text)]))
    assert found["memory.swap_compressed"] == 12_288.0
    short = "/sys/block/z0/mm_stat: 1 2\n"
    account = told([*watched(STILL), Record("compressed-swap", 50.0, short)])
    assert "memory.swap_compressed" not in readings_of(account)
    assert account.faults[-1].kind == "unreadable"


def test_the_processor_is_told_between_the_last_two_looks():
    records = [
        *watched(STILL),
        Record("stat", 20.0, "cpu 100 0 0 900 0 0 0 0 0 0\n"),
        Record("stat", 30.0, "cpu 200 0 0 1000 0 0 0 0 0 0\n"),
        Record("stat", 40.0, "cpu 250 0 0 1150 0 0 0 0 0 0\n"),
    ]
    assert readings_of(told(records))["cpu.busy"] == pytest.approx(0.25)


def test_counts_are_whole_numbers():
    assert parse_counts("pss 12\nrss 30\n") == {"pss": 12, "rss": 30}


def test_a_text_that_cannot_be_read_is_one_fault_however_often_it_is_asked_for():
    account = Account([Record("process-memory", 1.0, "pss many\n")])
    assert account.read("process-memory", parse_counts) is None
    assert account.read("process-memory", parse_counts) is None
    assert account.read("absent", parse_counts) is None
    assert len(account.faults) == 1
    assert account.faults[0].what.startswith("process-memory: ")


def test_the_newest_text_of_a_name_counts():
    account = Account([Record("n", 1.0, "pss 1\n"), Record("n", 2.0, "pss 2\n")])
    assert account.read("n", parse_counts) == {"pss": 2}
    assert [record.uptime_s for record in account.all("n")] == [1.0, 2.0]
