"""What a virtual machine is made of, as QEMU's arguments."""

from dataclasses import dataclass
from pathlib import Path

from haremile.core.records.profile import MachineProfile
from haremile.errors import BadInputError, MissingHereError
from haremile_probe.wire import PORT_NAME

PROGRAM = "qemu-system-x86_64"
TOOLS_SERIAL = "haremile"
FIRMWARE_FOLDER = Path("/usr/share/OVMF")
ACCELERATORS = {
    ("tcg", "host"): ["-accel", "tcg,thread=multi"],
    ("kvm", "host"): ["-accel", "kvm", "-cpu", "host"],
    ("tcg", "counted"): [
        "-accel",
        "tcg",
        "-icount",
        "shift=2,sleep=off",
        "-rtc",
        "base=2026-01-01,clock=vm",
    ],
}
SANDBOX = [
    "-sandbox",
    "on,obsolete=deny,elevateprivileges=deny,spawn=deny,resourcecontrol=deny",
]
"""What the emulator may no more ask the kernel for once it runs."""

BUSES = {
    "virtio": ["-device", "virtio-blk-pci,drive=disk"],
    "sata": ["-device", "ahci,id=ahci", "-device", "ide-hd,drive=disk,bus=ahci.0"],
    "ide": ["-device", "ide-hd,drive=disk,bus=ide.0"],
    "nvme": ["-device", "nvme,drive=disk,serial=disk"],
    "scsi": ["-device", "virtio-scsi-pci", "-device", "scsi-hd,drive=disk"],
}
"""How a disk is attached."""

FORMATS = {".qcow2": "qcow2", ".raw": "raw", ".img": "raw"}
LIVE = ".iso"
DISK = "disk"


@dataclass(frozen=True)
class GuestSpec:
    """What the virtual machine is made of.

    Attributes
    ----------
    kernel, initrd : Path or None
        Booted directly; None where the disk brings its own.
    accelerator, clock : str
        A pair of `ACCELERATORS`.
    append : str
        Added to the kernel's command line.
    disk : Path or None
        Its changes are thrown away unless `keeps_changes`.
    live : Path or None
        A live system's image, in the drive.
    disk_mib : int or None
        The size that the disk is grown to; without a disk, that of an empty one.
    tools : Path or None
        A read-only disk with what the agent inside needs.
    forward : int or None
        A port of the guest, reached on a free port of this host; it reaches nothing itself.
    user_network : bool
        Whether the guest reaches this host.
    """

    kernel: Path | None
    initrd: Path | None
    accelerator: str
    clock: str = "host"
    memory_mib: int = 256
    cores: int = 1
    append: str = ""
    disk: Path | None = None
    bus: str = "virtio"
    live: Path | None = None
    firmware: str = "bios"
    keeps_changes: bool = False
    has_screen: bool = False
    tools: Path | None = None
    forward: int | None = None
    user_network: bool = False
    may_restart: bool = False
    disk_mib: int | None = None

    def __post_init__(self) -> None:
        if (self.accelerator, self.clock) not in ACCELERATORS:
            raise BadInputError(f"no clock {self.clock} with the accelerator {self.accelerator}")
        MachineProfile(self.cores, self.memory_mib, self.bus, self.firmware, self.disk_mib)

    def command(self, folder: Path, port: int | None = None) -> list[str]:
        """The argument list; sockets lie in `folder`, `port` is the forwarded one of this host."""
        return [
            PROGRAM,
            "-nodefaults",
            "-no-user-config",
            "-machine",
            "pc",
            "-display",
            "none",
            "-S",
            *([] if self.may_restart else ["-no-reboot"]),
            *SANDBOX,
            *ACCELERATORS[(self.accelerator, self.clock)],
            "-m",
            str(self.memory_mib),
            "-smp",
            str(self.cores),
            *self._firmware(folder),
            *self._kernel(),
            *self._disks(folder),
            *self._network(port),
            *(["-vga", "std"] if self.has_screen else []),
            *_socket("qmp", folder),
            "-mon",
            "chardev=qmp,mode=control",
            *_socket("serial", folder),
            "-serial",
            "chardev:serial",
            *_socket("firmware", folder),
            "-device",
            "isa-debugcon,iobase=0x402,chardev=firmware",
            "-device",
            "virtio-serial-pci",
            *_socket("port", folder),
            "-device",
            f"virtserialport,chardev=port,name={PORT_NAME}",
        ]

    def _kernel(self) -> list[str]:
        if self.kernel is None:
            return []
        initrd = ["-initrd", str(self.initrd)] if self.initrd else []
        line = f"console=ttyS0 quiet panic=-1 {self.append}".strip()
        return ["-kernel", str(self.kernel), *initrd, "-append", line]

    def _firmware(self, folder: Path) -> list[str]:
        if self.firmware == "bios":
            return []
        code, _ = uefi_files()
        variables = self.variables(folder)
        return [
            "-drive",
            f"if=pflash,format=raw,readonly=on,file={_comma(code)}",
            "-drive",
            f"if=pflash,format=raw,file={_comma(variables)}",
        ]

    def variables(self, folder: Path) -> Path:
        """Where the firmware's variables lie: beside a disk that keeps changes, or with the run."""
        if self.keeps_changes and self.disk is not None:
            return self.disk.with_suffix(".vars")
        return folder / "variables.fd"

    def empty_disk(self, folder: Path) -> Path | None:
        """Where the empty disk of the run lies; None where there is none."""
        return None if self.disk is not None or self.disk_mib is None else folder / "empty.raw"

    def _disks(self, folder: Path) -> list[str]:
        arguments = []
        disk = self.disk or self.empty_disk(folder)
        if disk is not None:
            changes = "cache=writeback" if self.keeps_changes else "snapshot=on,cache=unsafe"
            kind = FORMATS[disk.suffix.lower()]
            drive = f"file={_comma(disk)},if=none,id={DISK},format={kind},{changes}"
            arguments += ["-drive", f"{drive},discard=unmap", *BUSES[self.bus]]
        if self.live is not None:
            drive = f"file={_comma(self.live)},if=none,id=live,format=raw,media=cdrom,readonly=on"
            arguments += ["-drive", drive, "-device", "ide-cd,drive=live,bootindex=0"]
        if self.tools is not None:
            drive = f"file={_comma(self.tools)},if=none,id=tools,format=raw,readonly=on"
            device = f"virtio-blk-pci,drive=tools,serial={TOOLS_SERIAL}"
            arguments += ["-drive", drive, "-device", device]
        return arguments

    def _network(self, port: int | None) -> list[str]:
        if self.forward is None and not self.user_network:
            return []
        forward = f",hostfwd=tcp:127.0.0.1:{port}-:{self.forward}" if self.forward else ""
        alone = "off" if self.user_network else "on"
        net = f"user,id=net,restrict={alone}{forward}"
        return ["-netdev", net, "-device", "virtio-net-pci,netdev=net,romfile="]


def uefi_files() -> tuple[Path, Path]:
    """Code and fresh variables of the UEFI firmware. Raises MissingHereError."""
    for size in ("_4M", ""):
        code = FIRMWARE_FOLDER / f"OVMF_CODE{size}.fd"
        if code.exists():
            return code, FIRMWARE_FOLDER / f"OVMF_VARS{size}.fd"
    raise MissingHereError("UEFI firmware is not on this machine; run: apt-get install ovmf")


def _comma(path: Path) -> str:
    return str(path).replace(",", ",,")


def _socket(name: str, folder: Path) -> list[str]:
    path = _comma(folder / name)
    return ["-chardev", f"socket,id={name},path={path},server=on,wait=off"]
