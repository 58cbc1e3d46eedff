"""What the interface needs of the bench."""

from collections.abc import Mapping, Sequence
from typing import Protocol
from uuid import UUID

from haremile.usecases.access import AccessBook
from haremile.usecases.enrolled import EnrolledMachines
from haremile.usecases.intake import File, IntakeItem, IntakeResult
from haremile.usecases.ports import (
    EventLog,
    Library,
    MachineDesk,
    Progress,
    ReadingBook,
    RunDesk,
    StudyBook,
)
from haremile.usecases.runner import StudyRunner


class IntakeDesk(Protocol):
    """Takes files in, out of the way of everything else."""

    def preview(
        self, study_id: UUID, files: Sequence[File], progress: Progress
    ) -> list[IntakeItem]:
        """What the files hold and where it would go; nothing is kept."""

    def take_in(
        self,
        study_id: UUID,
        files: Sequence[File],
        lanes: Mapping[int, int],
        progress: Progress,
    ) -> IntakeResult:
        """Keep everything that the files hold, or nothing of it."""

    def new_study(self, title: str, files: Sequence[File], progress: Progress) -> IntakeResult:
        """Make a finished study of the files, or nothing."""


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
    def access(self) -> AccessBook:
        """Who may come in, and what they did."""

    @property
    def enrolled(self) -> EnrolledMachines:
        """What enrolled machines are told."""

    @property
    def intake(self) -> IntakeDesk:
        """Files that are brought."""

    @property
    def runner(self) -> StudyRunner:
        """Studies that run here."""
