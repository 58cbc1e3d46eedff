"""Real guests under QEMU."""

import os
import signal

import pytest

from haremile.cli.session import present_settings
from haremile.errors import (
    BadInputError,
    GuestDiedError,
    GuestHungError,
    GuestPanickedError,
    MissingHereError,
)
from haremile.formats.guest_records import MeminfoWatch, add_idle_readings
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.machine import OWNS_NOTHING, GuestMachine
from haremile.rigs.guest.rig import GuestRig
from haremile.rigs.guest.spec import GuestSpec
from haremile.rigs.guest.tiny_boot import BootLimits
from haremile_probe.parsers.meminfo import parse_meminfo
from haremile_probe.parsers.process_stats import parse_process_stats
from helpers import install, order, readable_folder


@pytest.fixture(scope="module")
def images():
    built = GuestImages(present_settings().guests)
    assert built.are_built, "the guests are not built: run the tests with ./haremile test"
    return built


def asked(image, **recipe):
    made = install(image, rig="guest")
    return order(
        type(made)(made.system, made.machine, rig="guest", recipe={"image": image, **recipe})
    )


def rig(images, clock="host", **limits):
    return GuestRig(images, lambda: "tcg", MeminfoWatch, clock, BootLimits(**limits))


def test_two_boots_by_the_counted_clock_are_equal_and_agree_with_proc(images):
    captures = []
    for _ in range(2):
        capture = rig(images, "counted").run(asked("osterfell-base"), lambda name, at: None)
        add_idle_readings(capture)
        captures.append(capture)
    counted = [
        next(r.value for r in capture.readings if r.metric == "boot.counted")
        for capture in captures
    ]
    assert counted[0] == counted[1] > 1.0
    for capture in captures:
        values = {reading.metric: reading.value for reading in capture.readings}
        figures = parse_meminfo(capture.text_of("meminfo"))
        assert values["memory.used"] == figures["MemTotal"] - figures["MemAvailable"]
        own = [p for p in parse_process_stats(capture.text_of("processes")) if not p.is_kernel]
        assert values["process.count"] == len(own) == 2
        assert not any(metric.startswith("boot.t") for metric in values)
        assert capture.conditions["clock"] == "counted"
        assert capture.faults == []


def test_a_boot_on_the_hosts_clock_has_parts_that_add_up(images):
    marks = []
    capture = rig(images).run(asked("osterfell-server"), lambda name, at: marks.append(name))
    values = {reading.metric: reading.value for reading in capture.readings}
    parts = values["boot.firmware"] + values["boot.kernel"] + values["boot.userspace"]
    assert values["boot.total"] == pytest.approx(parts)
    assert marks == ["power-on", "userspace", "ready", "settling", "off"]
    assert capture.conditions["accelerator"] == "tcg"
    names = {process.name for process in parse_process_stats(capture.text_of("processes"))}
    assert {"crond", "httpd", "syslogd"} <= names
    assert len(capture.traces[0].values) >= 6


def test_a_kernel_that_panics_is_told_with_the_end_of_its_log(images):
    with pytest.raises(GuestPanickedError, match="Attempted to kill init") as caught:
        rig(images).run(asked("osterfell-base", append="rdinit=/bin/false"), lambda n, at: None)
    assert "Kernel panic" in caught.value.log_tail


def test_a_guest_that_hangs_is_ended_at_its_limit(images):
    hanging = asked("osterfell-base", append="rdinit=/bin/cat")
    with pytest.raises(GuestHungError, match="serial"):
        rig(images, boot_s=4.0).run(hanging, lambda name, at: None)


def test_a_guest_whose_process_is_killed_has_died(images):
    spec = GuestSpec(images.kernel, images.initrd("osterfell-base"), "tcg")
    with GuestMachine(spec) as guest:
        start = guest.power_on()
        os.kill(guest.pid, signal.SIGKILL)
        with pytest.raises(GuestDiedError):
            list(guest.serial.follow(start + 30))


@pytest.fixture
def disk():
    """An empty one of 64 MiB, which the emulator's user may write."""
    with readable_folder() as folder:
        path = folder / "disk.raw"
        path.write_bytes(b"")
        os.truncate(path, 64 * 2**20)
        if os.geteuid() == 0:
            os.chown(path, OWNS_NOTHING, OWNS_NOTHING)
        yield path


def test_a_disk_is_grown_to_the_size_that_the_profile_states(images, disk):
    spec = GuestSpec(
        images.kernel, None, "tcg", disk=disk, disk_mib=96, memory_mib=128, keeps_changes=True
    )
    with GuestMachine(spec):
        assert disk.stat().st_size == 96 * 2**20


def test_a_disk_that_is_larger_already_is_not_cut(images, disk):
    os.truncate(disk, 128 * 2**20)
    spec = GuestSpec(images.kernel, None, "tcg", disk=disk, disk_mib=96, memory_mib=128)
    with pytest.raises(BadInputError, match="larger than the 96 MiB"):
        GuestMachine(spec)


def test_interrupting_the_rig_ends_the_boot(images):
    made = rig(images)
    with pytest.raises(GuestDiedError):
        made.run(asked("osterfell-base"), lambda name, at: made.interrupt())


def test_what_the_rig_cannot_do_is_said(images, tmp_path):
    with pytest.raises(BadInputError, match="unknown guest image: other"):
        rig(images).run(asked("other"), lambda name, at: None)
    with pytest.raises(MissingHereError, match="guest build"):
        rig(GuestImages(tmp_path)).run(asked("osterfell-base"), lambda name, at: None)
