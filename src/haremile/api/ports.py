"""What the interface needs of the bench."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Protocol
from uuid import UUID

from haremile.formats.column_map import ColumnMap
from haremile.usecases.access import AccessRepository
from haremile.usecases.enrolled import EnrolledMachines
from haremile.usecases.guests import Proofs
from haremile.usecases.intake import File, IntakeItem, IntakeResult
from haremile.usecases.outlook import Outlooks
from haremile.usecases.ports import (
    Beside,
    ColumnMaps,
    Corrections,
    EventLog,
    EverMeasured,
    Health,
    Images,
    Incidents,
    Library,
    MachineQueue,
    OwnMeasures,
    PackageChoices,
    Packages,
    PackageTaken,
    Progress,
    Reactions,
    ReadingRepository,
    ReportShelf,
    RunQueue,
    Scorecards,
    StudyRepository,
    Things,
    WeightSets,
)
from haremile.usecases.publish import Publishing
from haremile.usecases.runner import StudyRunner


class Intakes(Protocol):
    """Takes files in, out of the way of everything else."""

    def preview(
        self,
        study_id: UUID,
        files: Sequence[File],
        progress: Progress,
        column_map: ColumnMap | None,
    ) -> list[IntakeItem]:
        """What the files hold and where it would go; nothing is kept."""

    def take_in(
        self,
        study_id: UUID,
        files: Sequence[File],
        lanes: Mapping[int, int],
        progress: Progress,
        column_map: ColumnMap | None,
    ) -> IntakeResult:
        """Keep everything that the files hold, or nothing of it."""

    def new_study(
        self,
        title: str,
        files: Sequence[File],
        progress: Progress,
        column_map: ColumnMap | None,
    ) -> IntakeResult:
        """Make a finished study of the files, or nothing."""


class Packing(Protocol):
    """Takes packages in, out of the way of everything else."""

    def look(self, file: Path, choices: PackageChoices) -> PackageTaken:
        """What a package would bring; nothing is kept."""

    def take_in(self, file: Path, choices: PackageChoices) -> PackageTaken:
        """Keep everything of a package, or nothing."""


class BenchParts(Protocol):
    """The wired parts, as `bootstrap` puts them together."""

    @property
    def host(self) -> str:
        """Name of this host."""

    def serving(self) -> tuple[str, str | None]:
        """Address of the running server, and its certificate's sha256. Raises BadInputError."""

    @property
    def library(self) -> Library:
        """Systems, machines, installs."""

    @property
    def studies(self) -> StudyRepository:
        """Studies."""

    @property
    def queue(self) -> RunQueue:
        """Run sheets at work."""

    @property
    def readings(self) -> ReadingRepository:
        """Readings and evidence."""

    @property
    def events(self) -> EventLog:
        """What happened."""

    @property
    def machines(self) -> MachineQueue:
        """Enrolled machines."""

    @property
    def access(self) -> AccessRepository:
        """Who may come in, and what they did."""

    @property
    def corrections(self) -> Corrections:
        """Changes of what is kept."""

    @property
    def things(self) -> Things:
        """What is known of systems and machines."""

    @property
    def ever(self) -> EverMeasured:
        """Readings over all studies."""

    @property
    def weight_sets(self) -> WeightSets:
        """Sets of weights for totals."""

    @property
    def own_measures(self) -> OwnMeasures:
        """Measures that testers defined."""

    @property
    def incidents(self) -> Incidents:
        """What went wrong while systems were in use."""

    @property
    def scorecards(self) -> Scorecards:
        """What a tester says of systems."""

    @property
    def reports(self) -> ReportShelf:
        """Reports, and what was published of them."""

    @property
    def publishing(self) -> Publishing:
        """Publishes reports."""

    @property
    def packages(self) -> Packages:
        """Bench books handed on and taken in."""

    @property
    def packing(self) -> Packing:
        """Packages that are brought."""

    @property
    def health(self) -> Health:
        """How the database is."""

    def disk(self) -> tuple[int, int]:
        """Bytes free, and of all, where the bench book stands."""

    @property
    def images_here(self) -> Images:
        """Images from which guests can be made."""

    @property
    def reactions(self) -> Reactions:
        """Drills of persons."""

    @property
    def beside(self) -> Beside:
        """Quoted figures, photographs."""

    @property
    def proofs(self) -> Proofs:
        """Boots that count for nothing."""

    @property
    def outlooks(self) -> Outlooks:
        """What a plan will tell, before its first run."""

    @property
    def column_maps(self) -> ColumnMaps:
        """What columns of a tester's own tables mean."""

    @property
    def enrolled(self) -> EnrolledMachines:
        """What enrolled machines are told."""

    @property
    def intake(self) -> Intakes:
        """Files that are brought."""

    @property
    def runner(self) -> StudyRunner:
        """Studies that run here."""
