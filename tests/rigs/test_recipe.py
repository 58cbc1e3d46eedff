import os
from dataclasses import replace
from uuid import UUID

import pytest

from haremile.core.records.study import Install, Machine, System
from haremile.errors import BadInputError, GuestDiedError, MissingHereError, NoSpaceError
from haremile.formats.guest_records import MeminfoWatch
from haremile.rigs.guest import machine, spec
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.recipe import ready_of
from haremile.rigs.guest.rig import GuestRig
from haremile.usecases.ports import RunOrder
from helpers import qcow2_head, readable_folder


@pytest.fixture
def disk(tmp_path):
    path = tmp_path / "varrow, 12.qcow2"
    path.write_bytes(qcow2_head())
    return path


def made(recipe):
    return Install(System("Varrow 12"), Machine("Guest", "virtual"), rig="guest", recipe=recipe)


def rig(tmp_path):
    return GuestRig(GuestImages(tmp_path), lambda: "tcg", MeminfoWatch)


def command(tmp_path, recipe):
    order = RunOrder(UUID(int=0), 1, "boot", made(recipe), 1, 1, 1)
    return " ".join(rig(tmp_path).spec(order).command(tmp_path))


def test_a_testers_disk_becomes_a_machine_whose_changes_are_thrown_away(tmp_path, disk):
    text = command(tmp_path, {"image": str(disk), "cores": "2", "memory_mib": "2048"})
    assert f"file={str(disk).replace(',', ',,')},if=none,id=disk,format=qcow2,snapshot=on" in text
    assert "-m 2048 -smp 2" in text
    assert "virtio-blk-pci,drive=disk" in text
    assert "-kernel" not in text
    assert "-vga std" in text
    assert "-netdev" not in text


@pytest.mark.parametrize(
    ("bus", "device"),
    [
        ("sata", "ide-hd,drive=disk,bus=ahci.0"),
        ("ide", "bus=ide.0"),
        ("nvme", "nvme,drive=disk"),
        ("scsi", "scsi-hd,drive=disk"),
    ],
)
def test_buses(tmp_path, disk, bus, device):
    assert device in command(tmp_path, {"image": str(disk), "bus": bus})


def test_changes_are_kept_where_the_recipe_says_so(tmp_path, disk):
    text = command(tmp_path, {"image": str(disk), "keep": "yes"})
    assert "snapshot" not in text
    assert "cache=writeback" in text


def test_a_live_system_boots_from_the_drive(tmp_path):
    image = tmp_path / "live.iso"
    image.write_bytes(b"")
    text = command(tmp_path, {"image": str(image)})
    assert "ide-cd,drive=live,bootindex=0" in text
    assert "media=cdrom,readonly=on" in text
    assert "id=disk" not in text
    assert "empty.raw,if=none,id=disk" in command(
        tmp_path, {"image": str(image), "disk_mib": "4096"}
    )


def test_uefi_has_its_own_variables_beside_a_disk_that_keeps_changes(tmp_path, disk, monkeypatch):
    monkeypatch.setattr(spec, "FIRMWARE_FOLDER", tmp_path)
    with pytest.raises(MissingHereError, match="ovmf"):
        command(tmp_path, {"image": str(disk), "firmware": "uefi"})
    (tmp_path / "OVMF_CODE_4M.fd").write_bytes(b"")
    text = command(tmp_path, {"image": str(disk), "firmware": "uefi"})
    assert "if=pflash,format=raw,readonly=on" in text
    assert str(tmp_path / "variables.fd") in text
    kept = command(tmp_path, {"image": str(disk), "firmware": "uefi", "keep": "yes"})
    assert str(disk.with_suffix(".vars")).replace(",", ",,") in kept


def test_a_port_is_forwarded_and_the_guest_reaches_nothing(tmp_path, disk):
    order = RunOrder(
        UUID(int=0), 1, "boot", made({"image": str(disk), "ready": "port:22"}), 1, 1, 1
    )
    text = " ".join(rig(tmp_path).spec(order).command(tmp_path, 40123))
    assert "restrict=on,hostfwd=tcp:127.0.0.1:40123-:22" in text


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"image": "/nowhere/a.raw"}, "is no file"),
        ({"image": "relative.raw"}, "unknown guest image"),
        ({"image": "/etc/hostname"}, "unknown guest image"),
        ({"bus": "floppy"}, "unknown bus"),
        ({"firmware": "coreboot"}, "unknown firmware"),
        ({"memory_mib": "lots"}, "memory_mib is a positive whole number"),
        ({"cores": "0"}, "cores is a positive whole number"),
        ({"keep": "perhaps"}, "keep is yes or no"),
        ({"ready": "soon"}, "ready is told by"),
        ({"ready": "port:99999"}, "ready is told by"),
        ({"clock": "sundial"}, "no clock sundial"),
    ],
)
def test_what_a_recipe_cannot_mean_is_said(tmp_path, disk, changes, says):
    with pytest.raises(BadInputError, match=says):
        rig(tmp_path).check(made({"image": str(disk), **changes}))


def test_systems_that_are_not_built_say_how(tmp_path):
    with pytest.raises(MissingHereError, match="guest build bare"):
        rig(tmp_path).check(made({"image": "osterfell-bare"}))


def test_ready_is_told_from_inside_where_it_was_built_here_else_by_the_screen(tmp_path):
    assert ready_of({"image": "osterfell-bare"}).rule_text == "said by the system"
    assert "screen quiet 15 s" in ready_of({"image": "/a.raw"}).rule_text
    kept = ready_of({"image": "/a/varrow.raw"}, tmp_path).keep
    assert kept == tmp_path / "varrow.ppm"
    (tmp_path / "varrow.ppm").write_bytes(b"P6\n2 1\n255\n" + bytes(6))
    like = ready_of({"image": "/a/varrow.raw", "ready": f"screen:{tmp_path}/varrow.ppm"})
    assert "reference picture" in like.rule_text
    with pytest.raises(BadInputError, match="no reference picture"):
        ready_of({"image": "/a/varrow.raw", "ready": f"screen:{tmp_path}/none.ppm"})
    assert "screen quiet 40 s" in ready_of({"image": "/a.raw", "quiet_s": "40"}).rule_text


def test_no_room_for_disk_changes_is_said_before_anything_starts(tmp_path, disk, monkeypatch):
    monkeypatch.setattr(machine, "OVERLAY_MIB", 2**40)
    order = RunOrder(UUID(int=0), 1, "boot", made({"image": str(disk)}), 1, 1, 1)
    wanted = rig(tmp_path).spec(order)
    with pytest.raises(NoSpaceError, match="MiB are free"):
        GuestMachine(wanted)
    with readable_folder() as folder:
        kept = folder / "varrow.qcow2"
        kept.write_bytes(qcow2_head())
        if os.geteuid() == 0:
            os.chown(kept, machine.OWNS_NOTHING, machine.OWNS_NOTHING)
        with pytest.raises(GuestDiedError, match=r"QEMU did not start: .*(luster|nvalid|qcow2)"):
            GuestMachine(replace(wanted, keeps_changes=True, disk=kept))
