"""What a virtual machine is made with."""

from dataclasses import dataclass

from haremile.core.records.memory_sizes import LEAST_MIB, MOST_MIB
from haremile.errors import BadInputError

BUSES = ("virtio", "sata", "ide", "nvme", "scsi")
FIRMWARES = ("bios", "uefi")
MOST_CORES = 64
LEAST_DISK_MIB, MOST_DISK_MIB = 64, 4 * 1024 * 1024


@dataclass(frozen=True)
class MachineProfile:
    """Cores, memory, how the disk is attached, firmware, and the disk's size, None for as large as
    the image: a virtual machine is made of it in one step. Raises BadInputError for what is no
    machine."""

    cores: int = 1
    memory_mib: int = 1024
    bus: str = "virtio"
    firmware: str = "bios"
    disk_mib: int | None = None

    def __post_init__(self) -> None:
        if self.bus not in BUSES:
            raise BadInputError(f"unknown bus: {self.bus}; expected one of {', '.join(BUSES)}")
        if self.firmware not in FIRMWARES:
            raise BadInputError(f"unknown firmware: {self.firmware}; expected bios or uefi")
        is_possible = LEAST_MIB <= self.memory_mib <= MOST_MIB and 1 <= self.cores <= MOST_CORES
        if not is_possible:
            raise BadInputError(f"{self.cores} cores and {self.memory_mib} MiB are no machine")
        if self.disk_mib is not None and not LEAST_DISK_MIB <= self.disk_mib <= MOST_DISK_MIB:
            raise BadInputError(
                f"a disk of {self.disk_mib} MiB; expected {LEAST_DISK_MIB} to {MOST_DISK_MIB} MiB"
            )

    @property
    def memory_text(self) -> str:
        """Its memory as a machine states it: ``512 MiB``, ``2 GiB``."""
        return _size_text(self.memory_mib)

    def facts(self) -> dict[str, str]:
        """What it states of the machine."""
        size = "" if self.disk_mib is None else f", {_size_text(self.disk_mib)}"
        return {
            "cores": str(self.cores),
            "memory": self.memory_text,
            "storage": f"virtual disk ({self.bus}){size}",
            "firmware": self.firmware.upper(),
        }

    def recipe(self) -> dict[str, str]:
        """Its lines in the recipe of an install."""
        return {
            "cores": str(self.cores),
            "memory_mib": str(self.memory_mib),
            "bus": self.bus,
            "firmware": self.firmware,
            **({} if self.disk_mib is None else {"disk_mib": str(self.disk_mib)}),
        }


def _size_text(mib: int) -> str:
    gib, rest = divmod(mib, 1024)
    return f"{gib} GiB" if gib and not rest else f"{mib} MiB"
