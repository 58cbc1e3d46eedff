"""What the interface needs of the bench."""

from typing import Protocol

from haremile.bench.enrolled import EnrolledMachines
from haremile.bench.ports import EventLog, Library, MachineDesk, ReadingBook, RunDesk, StudyBook
from haremile.bench.runner import StudyRunner


class BenchParts(Protocol):
    """The wired parts, as `bootstrap` puts them together."""

    @property
    def host(self) -> str:
        """Name of this host."""

    @property
    def library(self) -> Library:
        """Systems, machines, installs."""

    @property
    def studies(self) -> StudyBook:
        """Studies."""

    @property
    def desk(self) -> RunDesk:
        """Run sheets at work."""

    @property
    def readings(self) -> ReadingBook:
        """Readings and evidence."""

    @property
    def events(self) -> EventLog:
        """What happened."""

    @property
    def machines(self) -> MachineDesk:
        """Enrolled machines."""

    @property
    def enrolled(self) -> EnrolledMachines:
        """What enrolled machines are told."""

    @property
    def runner(self) -> StudyRunner:
        """Studies that run here."""
