"""What is known of systems and machines: facts with their source, and what makers claim."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from enum import StrEnum
from uuid import UUID

from haremile.core.records.study import Machine, System


class Noun(StrEnum):
    """What the library holds."""

    SYSTEM = "system"
    MACHINE = "machine"


@dataclass(frozen=True)
class FactKey:
    """Something that can be stated of a system or a machine; `says` tells what belongs there."""

    key: str
    label: str
    says: str


SYSTEM_FACTS: tuple[FactKey, ...] = (
    FactKey("channel", "Channel", "stable, candidate, rolling, or live only"),
    FactKey("base", "Base", "the distribution that it is made from"),
    FactKey("desktop", "Desktop", "with its version"),
    FactKey("window_system", "Window system", "Wayland or X11"),
    FactKey("init", "Init", "what starts the services"),
    FactKey("kernel", "Kernel", "its release"),
    FactKey("package_manager", "Packages", "how they are installed, and from where"),
    FactKey("comes_with", "Comes with", "what is installed, by kind, with versions"),
    FactKey("released", "Released", "the day"),
    FactKey("supported_until", "Supported until", "the day"),
    FactKey("image_size", "Image size", "of the file to install from, with its unit"),
    FactKey("notes", "Notes", "anything else"),
)
MACHINE_FACTS: tuple[FactKey, ...] = (
    FactKey("cores", "Cores", "how many, and of which processor"),
    FactKey("memory", "Memory", "with its unit"),
    FactKey("storage", "Storage", "kind and size"),
    FactKey("firmware", "Firmware", "BIOS or UEFI"),
    FactKey("graphics", "Graphics", "which processor draws"),
    FactKey("screen", "Screen", "its size in pixels"),
    FactKey("battery", "Battery", "its size, and what is left of it"),
    FactKey("age", "Age", "the year it was made"),
    FactKey("notes", "Notes", "anything else"),
)
FACTS: Mapping[Noun, tuple[FactKey, ...]] = {
    Noun.SYSTEM: SYSTEM_FACTS,
    Noun.MACHINE: MACHINE_FACTS,
}


@dataclass(frozen=True)
class ClaimKey:
    """Something that the makers of a system say of it.

    `metric` is what it is held against, None where nothing that is measured answers it; `beside` is
    what is said with every figure of it.
    """

    key: str
    label: str
    unit: str
    metric: str | None
    beside: str = ""


USABILITY = "usability not measured"
"""Getting ready is not being usable."""

CLAIMS: tuple[ClaimKey, ...] = (
    ClaimKey("boots_in", "Boots in", "s", "boot.total"),
    ClaimKey("idle_memory", "Uses when idle", "B", "memory.used"),
    ClaimKey("least_memory", "Needs at least, memory", "B", "least.memory", USABILITY),
    ClaimKey("recommended_memory", "Recommends, memory", "B", None),
    ClaimKey("space", "Needs, space", "B", "disk.used"),
    ClaimKey("cores", "Needs, processor cores", "1", None),
    ClaimKey("packages", "Packages", "1", "package.count"),
)
CLAIM_KEYS: Mapping[str, ClaimKey] = {one.key: one for one in CLAIMS}


@dataclass(frozen=True)
class Source:
    """Where something comes from: in words, and the day it was read there."""

    text: str
    on: date | None = None


@dataclass(frozen=True)
class Fact:
    """What was stated under one key; `value` is None where it was taken out."""

    key: str
    value: str | None
    source: Source
    at: datetime
    who: str | None


@dataclass(frozen=True)
class Claim:
    """An amount in the canonical unit of its key: of the makers, or the tester's own guess."""

    id: UUID
    key: str
    amount: float
    is_own_guess: bool
    source: Source
    is_put_away: bool = False


@dataclass(frozen=True)
class Thing:
    """A system or a machine as the library holds it.

    Attributes
    ----------
    identity : mapping
        What tells it from others beside its name: distribution, release, edition, architecture of a
        system; kind of a machine. None where it is not stated.
    facts : sequence of Fact
        All that was ever stated, the newest first.
    found : mapping
        What its own runs stated last.
    aliases : sequence of str
        Names that it had before.
    makes_guests : bool
        Of a system: an image is stated that a guest boots; of a machine: it was made of a profile.
    """

    id: UUID
    noun: Noun
    name: str
    identity: Mapping[str, str | None]
    is_put_away: bool
    facts: Sequence[Fact] = ()
    found: Mapping[str, str] = field(default_factory=dict)
    aliases: Sequence[str] = ()
    installs: int = 0
    studies: int = 0
    makes_guests: bool = False

    def present(self) -> dict[str, Fact]:
        """What holds now, by key."""
        newest: dict[str, Fact] = {}
        for fact in self.facts:
            newest.setdefault(fact.key, fact)
        return {key: fact for key, fact in newest.items() if fact.value is not None}


Aliases = Mapping[tuple[Noun, str], str]
"""The present name of everything that had another before."""


def renamed_system(system: System, known: Aliases) -> System:
    """The system under its present name."""
    return replace(system, name=known.get((Noun.SYSTEM, system.name), system.name))


def renamed_machine(machine: Machine, known: Aliases) -> Machine:
    """The machine under its present name."""
    return replace(machine, name=known.get((Noun.MACHINE, machine.name), machine.name))
