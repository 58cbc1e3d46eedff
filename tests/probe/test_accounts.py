"""What a procedure's texts say together."""

import json

import pytest

from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.footprint import cost_since
from haremile_probe.parsers.walk import APART
from haremile_probe.wire import Fault, Record, dump_capture, load_capture
from helpers import DATA


def recorded(source, name):
    return (DATA / source / f"{name}.txt").read_text()


def records(**texts):
    """Records by name, `_` for `-`; a list gives several of one name, a second apart."""
    found = []
    for name, given in texts.items():
        for second, text in enumerate([given] if isinstance(given, str) else given):
            found.append(Record(name.replace("_", "-"), float(second), text))
    return found


def values(account):
    return {(r.metric, r.method): r.value for r in account.readings}


def whats(account):
    return [(fault.kind, fault.what.partition(":")[0]) for fault in account.faults]


def test_a_laptops_conditions_follow_from_its_own_files():
    account = account_of(
        "about",
        records(
            os_release=recorded("os-release", "varrow"),
            values=recorded("path-values", "herbarium-laptop"),
            mountinfo=recorded("mountinfo", "installed").replace("/dev/vda", "/dev/sda1"),
            swaps=recorded("swaps", "file-and-compressed"),
            cpuinfo=recorded("cpuinfo", "two-core-guest"),
            session_environment="XDG_SESSION_TYPE=x11\nXDG_CURRENT_DESKTOP=Tarnwick\n",
            meminfo_before=recorded("meminfo", "workstation"),
            uptime="81.20 100.00\n",
            apt_upgrade=recorded("apt-upgrade", "three-pending"),
            clock_ticks="100\n",
            probe_pid="9\n",
            command_lines="1 /sbin/init\n400 /usr/bin/ffmpeg -f x11grab -i :0\n",
        ),
    )
    assert account.conditions == {
        "probe_version": account.conditions["probe_version"],
        "kernel": "6.1.0-seed",
        "firmware": "uefi",
        "cores": "2",
        "memory": account.conditions["memory"],
        "medium": "installed",
        "power": "battery",
        "governor": "powersave",
        "throttled": "yes",
        "session": "Tarnwick x11",
        "since_boot": "81 s",
        "updates_pending": "3",
        "recorder": "running",
    }
    assert account.facts["root"]["storage"] == "SSD"
    assert account.facts["swap_compressed_bytes"] == 131072
    assert account.facts["temperatures_c"] == {"x86_pkg_temp": 61.0}
    assert account.facts["recorders"] == ["ffmpeg"]
    assert account.faults == []


def test_what_is_not_there_is_no_condition():
    account = account_of("about", records(values=""))
    assert set(account.conditions) == {"probe_version"}


def test_a_live_session_and_a_container_are_told_from_an_install():
    live = account_of("about", records(mountinfo=recorded("mountinfo", "live-session")))
    assert live.conditions["medium"] == "live"
    boxed = account_of(
        "about",
        records(
            mountinfo=recorded("mountinfo", "live-session"),
            values="/run/systemd/container: box\n",
            session_environment="",
        ),
    )
    assert boxed.conditions["medium"] == "container"


def stat_line(pid, name, ticks, parent=1):
    fields = ["S", str(parent), *["0"] * 9, str(ticks), "0", *["0"] * 4, "1", "0", "500"]
    return f"{pid} ({name}) {' '.join(fields)}"


def test_what_is_busy_beside_the_measurement_is_named_and_the_probe_is_not():
    before = [stat_line(10, "indexer", 100), stat_line(11, "quiet", 5), stat_line(9, "python3", 3)]
    after = [stat_line(10, "indexer", 150), stat_line(11, "quiet", 6), stat_line(9, "python3", 60)]
    account = account_of(
        "about",
        records(
            processes=["\n".join(before), "\n".join(after)],
            clock_ticks="100\n",
            probe_pid="9\n",
            pressure=recorded("pressure", "busy"),
        ),
    )
    assert account.conditions["background"] == "indexer"
    assert account.conditions["pressure"] == "12 %"
    assert account.facts["busy"] == {"indexer": pytest.approx(0.5)}


def test_a_boots_parts_come_from_every_source_with_its_method():
    account = account_of(
        "boot",
        records(
            boot_manager=recorded("service-manager", "uefi-with-initrd"),
            values=recorded("path-values", "herbarium-laptop"),
            efi_times=recorded("efi-times", "menu-shown"),
            kernel_log=recorded("kernel-log", "dmesg"),
            boot_units=recorded("units", "guest"),
            session=recorded("session", "graphical-autologin"),
            journal_before=recorded("journal", "ordered-shutdown"),
        ),
    )
    found = values(account)
    assert found["boot.firmware", "systemd"] == pytest.approx(2.281421)
    assert found["boot.firmware", "efi"] == pytest.approx(2.201374)
    assert found["boot.firmware", "firmware-table"] == pytest.approx(2.184)
    assert found["boot.menu", "efi"] == pytest.approx(7.421203)
    assert found["boot.loader", "efi"] == pytest.approx(7.669846 - 7.421203)
    assert found["boot.kernel", "systemd"] == pytest.approx(1.284203)
    assert found["boot.shutdown", "systemd"] == pytest.approx(5.91634)
    assert account.conditions["waits"] == "menu"
    apart = {item["metric"] for item in account.facts["disagreements"]}
    assert {"boot.kernel", "boot.loader"} <= apart
    longest = account.facts["longest_units"]
    assert longest[0][2] == max(length for _, _, length in longest) > 0.5


def test_a_passphrase_and_a_typed_login_are_kept_apart_from_the_boot():
    account = account_of(
        "boot",
        records(
            boot_manager=recorded("service-manager", "uefi-with-initrd"),
            boot_units=recorded("units", "waits-for-a-passphrase"),
            session=recorded("session", "typed"),
            session_target=recorded("units", "session-target"),
            desktop_settled="41.5\n",
        ),
    )
    waited = 15.521733 - 3.2104
    assert account.facts["waits_s"]["passphrase"] == pytest.approx(waited)
    assert account.facts["waits_s"]["login"] == pytest.approx(31.817263 - 17.10421)
    assert account.conditions["waits"] == "login, passphrase"
    assert account.conditions["autologin"] == "no"
    found = values(account)
    assert found["boot.initrd", "systemd"] == 0.0  # all of it was spent typing
    before = 2.281421 + 3.912001
    assert found["boot.total", "systemd"] == pytest.approx(before + 17.204881 - waited)
    assert found["boot.desktop", "screen"] == pytest.approx(41.5 - waited - (31.817263 - 17.10421))
    assert found["boot.session", "session-start"] == pytest.approx(41.5 - 31.817263)
    assert found["boot.session", "systemd"] == pytest.approx(35.204117 - 31.817263)
    typed = waited + (31.817263 - 17.10421)
    assert found["boot.desktop", "systemd"] == pytest.approx(35.204117 - typed)


def test_a_boot_without_firmware_records_has_no_total_and_says_why():
    account = account_of(
        "boot",
        records(
            boot_manager=recorded("service-manager", "guest-without-firmware"),
            boot_units=recorded("units", "guest"),
        ),
    )
    assert {metric for metric, _ in values(account)} == {"boot.kernel", "boot.userspace"}
    assert ("absent", "boot.total") in whats(account)
    assert "waits" not in account.conditions  # nobody told whether somebody was waited for


def test_without_systemd_what_is_left_is_named():
    greeter = stat_line(300, "greeter", 4).replace(" 500", " 1234")
    account = account_of(
        "boot",
        records(
            display_manager="/usr/sbin/greeter\n",
            processes=greeter + "\n",
            clock_ticks="100\n",
            kernel_log=recorded("kernel-log", "decimal-comma"),
        ),
    )
    assert values(account) == {
        ("boot.kernel", "kernel-log"): 1.28421,
        ("boot.login", "session-start"): 12.34,
    }


def test_a_boot_that_is_not_complete_gives_no_userspace():
    account = account_of("boot", records(boot_manager=recorded("service-manager", "incomplete")))
    assert ("absent", "boot.userspace") in whats(account)
    assert values(account) == {("boot.kernel", "systemd"): 3.081222}


def meminfo(used_kib):
    total = 1_000_000
    return (
        f"MemTotal: {total} kB\nMemFree: 100 kB\nMemAvailable: {total - used_kib} kB\n"
        "Buffers: 0 kB\nCached: 0 kB\nSReclaimable: 0 kB\nShmem: 0 kB\n"
        "SwapTotal: 0 kB\nSwapFree: 0 kB\n"
    )


def test_idle_memory_is_the_settled_windows_and_the_instants_are_lanes_of_their_own():
    levels = [500, 400, 300, 300, 301, 300, 300]
    account = account_of(
        "idle",
        records(
            settle_rule="3.0 0.005 0.02 60.0\n",
            meminfo=[meminfo(level) for level in levels],
            meminfo_at_60=meminfo(420),
            process_memory="pss 2048\nrss 4096\nread 2\ndenied 0\n",
            probe_memory="pss 1024\nrss 2048\n",
            compressed_swap="/sys/block/zram0/mm_stat: 9 5 7 0\n",
            processes=stat_line(10, "greeter", 1) + "\n",
            stat=["cpu  10 0 10 180 0\n", "cpu  20 0 20 360 0\n"],
        ),
    )
    settled = {(r.metric, r.step): r.value for r in account.readings}
    assert settled["memory.used", 0] == 300 * 1024
    assert settled["memory.used", 60] == 420 * 1024
    assert settled["memory.pss", 0] == 2048
    assert settled["memory.swap_compressed", 0] == 7
    assert settled["cpu.busy", 0] == pytest.approx(0.1)
    (instant,) = {tuple(r.conditions.items()) for r in account.readings if r.step == 60}
    assert instant == (("settle_rule", "at 60 s since boot"),)
    assert account.facts["probe_memory"] == {"pss": 1024, "rss": 2048}
    (curve,) = account.traces
    assert curve.values == [level * 1024.0 for level in levels]


def test_memory_that_does_not_settle_gives_no_idle_reading_and_says_so():
    account = account_of(
        "idle",
        records(
            settle_rule="3.0 0.005 0.02 60.0\n",
            meminfo=[meminfo(100 * n) for n in range(1, 9)],
        ),
    )
    assert account.readings == []
    assert [fault.kind for fault in account.faults] == ["timed-out"]
    capture = capture_of(account, "idle", "0", "t", "m", "s")
    assert capture.outcome == "could-not-measure"
    assert "did not settle" in capture.reason


def test_a_sum_over_processes_that_could_not_all_be_read_is_no_reading():
    account = account_of(
        "idle",
        records(
            settle_rule="1.0 0.005 0.02 60.0\n",
            meminfo=[meminfo(300)] * 4,
            process_memory="pss 2048\nrss 4096\nread 2\ndenied 3\n",
        ),
    )
    metrics = {metric for metric, _ in values(account)}
    assert "memory.pss" not in metrics
    assert "memory.rss" in metrics
    assert ("denied", "memory.pss") in whats(account)


def footprint(used_blocks, names):
    stanza = "Package: {}\nStatus: install ok installed\nInstalled-Size: 100\nVersion: 1\n"
    return account_of(
        "footprint",
        records(
            filesystem=f"block_size=4096 blocks=1000000 free={1000000 - used_blocks}\n",
            walk=recorded("walk", "probe"),
            swaps=recorded("swaps", "file-and-compressed"),
            dpkg_status="\n".join(stanza.format(name) for name in names),
        ),
    )


def test_a_footprint_and_what_adding_a_desktop_cost():
    bare = footprint(50_000, ["coppicer"])
    found = values(bare)
    assert found["disk.used", "statvfs"] == 50_000 * 4096
    assert found["disk.walked", "walk"] == 25059684352
    assert found["package.count", "package-db"] == 1
    assert bare.facts["swap_files_bytes"] == 2147479552
    assert set(bare.facts["walk"]["apart"]) <= set(APART)
    before = capture_of(bare, "footprint", "0", "t", "m", "s")
    full = footprint(80_000, ["coppicer", "inkwarren", "wayfarrow"])
    cost = {metric: change for metric, change, _ in cost_since(before, full)}
    assert cost["disk.used"] == 30_000 * 4096
    assert cost["package.count"] == 2


def test_a_walk_that_missed_folders_is_no_reading():
    account = account_of("footprint", records(walk=recorded("walk", "gatherer-as-user")))
    assert account.readings == []
    assert whats(account) == [("denied", "disk.walked")]


def test_launches_are_readings_by_step_and_failed_ones_are_faults():
    account = account_of("launch", records(launches=recorded("launches", "one-did-not-settle")))
    steps = {r.step for r in account.readings if r.metric == "launch.settled"}
    assert steps == {0, 1}
    assert account.conditions["start"] == "warm"
    assert account.conditions["app"] == "inkwarren"
    assert {r.resolution for r in account.readings} == {0.001}
    assert [fault.what for fault in account.faults] == [
        "launch 3: timed out: the window did not settle"
    ]


def test_a_garbled_text_is_one_fault_however_often_it_is_asked_for():
    account = account_of("boot", records(values="nonsense", boot_manager="x"))
    assert whats(account).count(("unreadable", "values")) == 1
    assert ("unreadable", "boot-manager") in whats(account)


def test_the_capture_of_an_account_comes_back_from_its_document():
    account = account_of(
        "boot",
        records(
            kernel_log=recorded("kernel-log", "kmsg"),
            boot_units=recorded("units", "guest"),
        ),
        [Fault("denied", "efi: LoaderTimeInitUSec")],
    )
    capture = capture_of(
        account, "boot", "0190", "2026-10-05T08:00:00+00:00", "Laptop", "Varrow 12"
    )
    assert load_capture(dump_capture(capture)) == capture
    assert json.loads(capture.text_of("facts"))["units"] == account.facts["units"]
    assert capture.text_of("kernel-log") == recorded("kernel-log", "kmsg")
