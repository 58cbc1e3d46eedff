"""Systems from disks and live images, booted for real; minutes, so only with --long."""

import hashlib
import os
import shutil
import subprocess
import threading
from dataclasses import replace

import pytest

from haremile.api.guard import Access
from haremile.bootstrap import probe_archive
from haremile.cli.session import present_settings
from haremile.core.comparison.boot_parts import (
    REST,
    TOTAL,
    boot_parts,
    part_sources,
    with_rest,
)
from haremile.core.records.study import Install, Machine, RunState, System
from haremile.errors import GuestHungError
from haremile.formats.captures import checked_capture
from haremile.formats.guest_records import MeminfoWatch
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.debian_build import RECIPES, build_debian, debian_image
from haremile.rigs.guest.machine import OWNS_NOTHING, GuestMachine
from haremile.rigs.guest.ready import ByProbe
from haremile.rigs.guest.recipe import image_spec, tools_disk
from haremile.rigs.guest.rig import GuestRig
from haremile.usecases.plan import (
    DESKTOP_MEMORY_MIB,
    checked_plan,
    desktop_installs,
    first_page_install,
)
from helpers import order, readable_folder, served

pytestmark = pytest.mark.long

SYSLINUX = "DEFAULT tiny\nLABEL tiny\nKERNEL vmlinuz\nINITRD tiny.gz\nAPPEND console=ttyS0 quiet\n"
BIOS_MODULES, EFI = "/usr/lib/syslinux/modules", "/usr/lib/SYSLINUX.EFI/efi64/syslinux.efi"
READY = {"ready": "serial:HM-MARK ready", "off_limit_s": "2", "memory_mib": "256"}


def run(*words, **options):
    done = subprocess.run(words, capture_output=True, text=True, check=False, **options)
    assert done.returncode == 0, done.stderr


@pytest.fixture(scope="module")
def images():
    return GuestImages(present_settings().guests)


@pytest.fixture(scope="module")
def parts(images):
    """What a tiny system's disk holds."""
    with readable_folder() as folder:
        shutil.copy(images.kernel, folder / "vmlinuz")
        shutil.copy(images.initrd("osterfell-base"), folder / "tiny.gz")
        (folder / "syslinux.cfg").write_text(SYSLINUX)
        yield folder


@pytest.fixture
def folder():
    """A folder that the emulator may look into."""
    with readable_folder() as made:
        yield made


@pytest.fixture(scope="module")
def disk(parts):
    """A disk as a tester has one: it boots by BIOS and by UEFI."""
    with readable_folder() as folder:
        yield filled(parts, folder / "varrow.raw")


def filled(parts, path):
    path.write_bytes(b"\0" * (64 * 2**20))
    run("mkfs.vfat", "-F", "16", str(path))
    run("mcopy", "-i", str(path), *(str(p) for p in sorted(parts.iterdir())), "::")
    run("syslinux", "--install", str(path))
    run("mmd", "-i", str(path), "::EFI", "::EFI/BOOT")
    run("mcopy", "-i", str(path), EFI, "::EFI/BOOT/BOOTX64.EFI")
    run("mcopy", "-i", str(path), f"{BIOS_MODULES}/efi64/ldlinux.e64", "::EFI/BOOT/")
    for part in ("vmlinuz", "tiny.gz", "syslinux.cfg"):
        run("mcopy", "-i", str(path), str(parts / part), "::EFI/BOOT/")
    return path


def rig(images):
    archive = lambda: probe_archive(present_settings().data)  # noqa: E731
    return GuestRig(images, lambda: "tcg", MeminfoWatch, archive=archive)


def booted(images, image, **recipe):
    made = Install(
        System("Varrow 12"),
        Machine("Guest", "virtual"),
        rig="guest",
        recipe={"image": str(image), **READY, **recipe},
    )
    return checked_capture(rig(images).run(order(made), lambda name, at: None))


def values_of(capture):
    return {(r.metric, r.method): r.value for r in capture.readings}


def test_a_testers_disk_boots_by_bios_and_stays_as_it_was(images, disk):
    before = hashlib.sha256(disk.read_bytes()).digest()
    capture = booted(images, disk)
    values = values_of(capture)
    assert 1.0 < values["boot.total", "serial"] < 120.0
    assert 0.0 < values["boot.firmware", "host-marker"] < values["boot.total", "serial"]
    assert capture.conditions["firmware"] == "bios"
    assert capture.conditions["medium"] == "installed"
    assert any(fault.what.startswith("shutdown") for fault in capture.faults)
    assert hashlib.sha256(disk.read_bytes()).digest() == before


def test_it_boots_by_uefi_from_another_bus_and_another_format(images, disk, folder):
    other = folder / "varrow.qcow2"
    run("qemu-img", "convert", "-O", "qcow2", str(disk), str(other))
    capture = booted(images, other, bus="sata", firmware="uefi")
    assert capture.conditions["firmware"] == "uefi"
    assert ("boot.total", "serial") in values_of(capture)


def test_a_live_system_is_one(images, parts, folder):
    shutil.copytree(parts, folder / "live")
    shutil.move(folder / "live/syslinux.cfg", folder / "live/isolinux.cfg")
    shutil.copy("/usr/lib/ISOLINUX/isolinux.bin", folder / "live")
    shutil.copy(f"{BIOS_MODULES}/bios/ldlinux.c32", folder / "live")
    image = folder / "live.iso"
    run(
        "xorriso",
        "-as",
        "mkisofs",
        "-quiet",
        "-o",
        str(image),
        "-b",
        "isolinux.bin",
        "-no-emul-boot",
        "-boot-load-size",
        "4",
        "-boot-info-table",
        str(folder / "live"),
    )
    capture = booted(images, image)
    assert capture.conditions["medium"] == "live"
    assert ("boot.total", "serial") in values_of(capture)


def test_a_screen_that_is_never_lit_is_never_ready(images, disk):
    with pytest.raises(GuestHungError, match="never was lit"):
        booted(images, disk, ready="screen", ready_limit_s="15")


@pytest.fixture(scope="module")
def built(images):
    if os.geteuid() != 0:
        pytest.skip("the real guest systems are built as root")
    found = {kind: debian_image(images.root, kind) for kind in RECIPES}
    for image in found.values():
        if not image.is_built:
            build_debian(image, lambda text: None)
    return found


def test_the_desktop_is_measured_inside_with_a_real_launch(images, built):
    desktop = desktop_installs("here")[1]
    marks = []
    capture = rig(images).run(order(desktop), lambda name, at: marks.append(name))
    values = values_of(checked_capture(capture))
    verbs = ("boot:", "idle:", "footprint:", "launch:")
    assert [fault for fault in capture.faults if fault.what.startswith(verbs)] == []
    for key in (
        ("boot.total", "host-marker"),
        ("boot.userspace", "systemd"),
        ("memory.used", "probe"),
        ("disk.used", "statvfs"),
        ("package.count", "package-db"),
        ("launch.settled", "probe"),
        ("boot.shutdown", "host-marker"),
    ):
        assert values[key] > 0, key
    launched = next(r for r in capture.readings if r.metric == "launch.settled")
    assert launched.conditions["start"] == "first-after-boot"
    assert "app" not in capture.conditions


def test_a_desktops_first_page_comes_after_its_rest_as_its_screen_and_its_records_tell(
    images, built
):
    made = first_page_install("here")
    asked = {"probe.response": "--keys 10 --busy 0", "then": "response:Menu; response:Terminal"}
    made = replace(made, recipe={**made.recipe, **asked})
    capture = checked_capture(rig(images).run(order(made), lambda name, at: None))
    values = values_of(capture)
    session_up = float(capture.text_of("ready").split()[1])
    settled, page = values["boot.desktop", "screen"], values["boot.task", "probe"]
    assert values["boot.kernel", "systemd"] + values["boot.userspace", "systemd"] < settled
    assert session_up - 0.5 < settled < page
    changed = [float(line) for line in capture.text_of("film").split()]
    assert any(page - 5.0 < at < page + 5.0 for at in changed), "the page is seen on the screen"
    told = [r for r in capture.readings if r.metric == "response.rest"]
    assert {one.conditions["app"] for one in told} == {"menu:ctrl-escape", "xterm"}
    assert all(0.0 < one.value < 2.0 for one in told)


@pytest.mark.parametrize("place", [0, 1], ids=["bare", "desktop"])
def test_parts_and_what_they_leave_are_the_whole_to_a_millisecond(images, built, place):
    made = desktop_installs("here")[place]
    capture = checked_capture(rig(images).run(order(made), lambda name, at: None))
    values = values_of(capture)
    totals = [key for key in values if key[0] == TOTAL]
    assert totals == [(TOTAL, "host-marker")], "one whole, and no second one"
    sources = with_rest([[values]], part_sources([[values]]))
    named = {source.metric for source in sources}
    assert {"boot.firmware", "boot.loader", "boot.userspace", "boot.after"} <= named
    parts = boot_parts([values], sources)
    assert parts[-1].end == pytest.approx(values[totals[0]], abs=0.001)
    assert REST not in named, "every part has its name here"


def test_the_desktop_is_ready_on_its_screen_about_when_it_says_so(images, built):
    desktop = desktop_installs("here")[1]
    seen = replace(desktop, recipe={**desktop.recipe, "ready": "screen", "quiet_s": "12"})
    capture = rig(images).run(order(seen), lambda name, at: None)
    at = values_of(capture)["boot.total", "screen"]
    assert 10.0 < at < 300.0
    picture = capture.text_of("ready-picture.png;base64")
    assert picture.startswith("iVBOR"), "a PNG picture"


def test_a_real_machine_is_enrolled_and_really_restarts_twice(
    images, built, bench, throwaway_url, folder
):
    disk = folder / "enrolled.raw"
    shutil.copy(built["bare"].disk, disk)
    os.chown(disk, OWNS_NOTHING, OWNS_NOTHING)
    bench.library.ensure(Install(System("Osterfell_Bare"), Machine("Test bench")))
    key = bench.machines.new_key("Test bench")
    access = Access(frozenset({"10.0.2.2"}))
    with (
        served(bench, throwaway_url, access=access) as address,
        tools_disk(lambda: probe_archive(present_settings().data)) as tools,
    ):
        wanted = image_spec(
            {"image": "osterfell-bare", "memory_mib": str(DESKTOP_MEMORY_MIB)},
            images.root,
            "tcg",
            "host",
            tools,
        )
        wanted = replace(wanted, disk=disk, keeps_changes=True, user_network=True, may_restart=True)
        with GuestMachine(wanted) as guest:
            ByProbe().wait(guest, guest.power_on() + 300.0)
            port = address.rpartition(":")[2]
            guest.port.send(f"said {key}")
            guest.port.send(
                f"probe enrol http://10.0.2.2:{port} --system Osterfell_Bare --come-back systemd"
            )
            wait_until(bench.machines.signs)
            installs = [i for i in bench.library.installs() if i.rig == "enrolled"]
            aside = Install(
                System("Aside"),
                Machine("Aside", "simulated"),
                rig="simulated",
                recipe={"truth": "One-gig guest/Varrow 12 Tarnwick"},
            )
            study = bench.studies.create(checked_plan("Q", [*installs, aside], 2, seed=2))
            assert bench.conductor.conduct(study.id)
    runs = [run for run in bench.studies.runs(study.id) if run.lane_no == 1]
    assert [run.state for run in runs] == [RunState.DONE] * 2, [run.reason for run in runs]
    found = [r for r in bench.readings.readings(study.id) if r.lane_no == 1]
    by = {(r.metric, r.method) for r in found}
    assert {("boot.userspace", "systemd"), ("boot.total", "host-marker")} <= by
    outside = [r.value for r in found if (r.metric, r.method) == ("boot.total", "host-marker")]
    assert all(10.0 < value < 300.0 for value in outside)


def wait_until(holds, seconds=300.0):
    pause = threading.Event()
    for _ in range(int(seconds / 0.5)):
        if holds():
            return
        pause.wait(0.5)
    pytest.fail("it did not come about in time")
