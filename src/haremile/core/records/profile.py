"""What a virtual machine is made with."""

from dataclasses import dataclass

from haremile.core.records.memory_sizes import LEAST_MIB, MOST_MIB
from haremile.errors import BadInputError

BUSES = ("virtio", "sata", "ide", "nvme", "scsi")
FIRMWARES = ("bios", "uefi")
MOST_CORES = 64


@dataclass(frozen=True)
class MachineProfile:
    """Cores, memory, how the disk is attached, and firmware: a virtual machine is made of it in
    one step. Raises BadInputError for what is no machine."""

    cores: int = 1
    memory_mib: int = 1024
    bus: str = "virtio"
    firmware: str = "bios"

    def __post_init__(self) -> None:
        if self.bus not in BUSES:
            raise BadInputError(f"unknown bus: {self.bus}; expected one of {', '.join(BUSES)}")
        if self.firmware not in FIRMWARES:
            raise BadInputError(f"unknown firmware: {self.firmware}; expected bios or uefi")
        is_possible = LEAST_MIB <= self.memory_mib <= MOST_MIB and 1 <= self.cores <= MOST_CORES
        if not is_possible:
            raise BadInputError(f"{self.cores} cores and {self.memory_mib} MiB are no machine")

    @property
    def memory_text(self) -> str:
        """Its memory as a machine states it: ``512 MiB``, ``2 GiB``."""
        gib, rest = divmod(self.memory_mib, 1024)
        return f"{gib} GiB" if gib and not rest else f"{self.memory_mib} MiB"

    def facts(self) -> dict[str, str]:
        """What it states of the machine."""
        return {
            "cores": str(self.cores),
            "memory": self.memory_text,
            "storage": f"virtual disk ({self.bus})",
            "firmware": self.firmware.upper(),
        }

    def recipe(self) -> dict[str, str]:
        """Its lines in the recipe of an install."""
        return {
            "cores": str(self.cores),
            "memory_mib": str(self.memory_mib),
            "bus": self.bus,
            "firmware": self.firmware,
        }
