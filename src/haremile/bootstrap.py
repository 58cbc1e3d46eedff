"""The one place that wires the parts together."""

import logging
import shutil
import socket
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from uuid import UUID

from haremile.api.schemas.report import report_content
from haremile.bounded import BoundedCalls
from haremile.config import Settings, serving
from haremile.demo.own_measures import with_own
from haremile.demo.world import simulated_truths
from haremile.formats.captures import parse_capture
from haremile.formats.column_map import ColumnMap
from haremile.formats.guest_records import MeminfoWatch
from haremile.formats.probe_archive import NAME, read_probe_archive
from haremile.formats.report_page import report_page
from haremile.rigs.enrolled import EnrolledRig
from haremile.rigs.guest.accelerator import AcceleratorProof
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.images import HostImages
from haremile.rigs.guest.rig import GuestRig
from haremile.rigs.local import LocalRig
from haremile.rigs.person import PersonRig
from haremile.rigs.probe_words import probe_job
from haremile.rigs.simulated import SimulatedRig
from haremile.store.access import PostgresAccess
from haremile.store.backup import write_backup
from haremile.store.beside import PostgresBeside
from haremile.store.cluster import Cluster
from haremile.store.column_maps import PostgresColumnMaps
from haremile.store.corrections import PostgresCorrections
from haremile.store.database import connect, migrate, together
from haremile.store.enrolled import PostgresMachineQueue
from haremile.store.events import PostgresEventLog
from haremile.store.health import PostgresHealth
from haremile.store.incidents import PostgresIncidents
from haremile.store.library import PostgresLibrary
from haremile.store.own_measures import PostgresOwnMeasures
from haremile.store.packages import PostgresPackages
from haremile.store.past import PostgresPastRuns
from haremile.store.reactions import PostgresReactions
from haremile.store.readings import PostgresReadingRepository
from haremile.store.reports import PostgresReports
from haremile.store.rows import database
from haremile.store.runs import PostgresRunQueue
from haremile.store.scorecards import PostgresScorecards
from haremile.store.standings import PostgresStandings
from haremile.store.studies import PostgresStudyRepository
from haremile.store.things import PostgresThings
from haremile.store.weight_sets import PostgresWeightSets
from haremile.usecases.access import Principal, acting
from haremile.usecases.conduct import Conductor
from haremile.usecases.early_end import DecidedWatch
from haremile.usecases.enrolled import EnrolledMachines
from haremile.usecases.guests import Proofs
from haremile.usecases.import_readings import quietly
from haremile.usecases.intake import File, Intake, IntakeItem, IntakeResult
from haremile.usecases.outlook import Outlooks
from haremile.usecases.package import take_package
from haremile.usecases.ports import MachineJob, PackageChoices, PackageTaken, Progress, Rig
from haremile.usecases.precision import PrecisionWatch
from haremile.usecases.publish import Publishing
from haremile.usecases.report import Sources
from haremile.usecases.runner import StudyRunner
from haremile_probe.jobs import Job
from haremile_probe.wire import Capture

REPORT = "report"
"""Where, among the built pages, stands what draws a report's pictures."""

SMALL_CAPTURE = 2**18
"""Bytes of a capture that is read at once: it can do no harm."""

log = logging.getLogger(__name__)


class BoundedIntake:
    """Intake in a process of its own, which no file can make use up more than its bounds."""

    def __init__(self, url: str, calls: BoundedCalls):
        self._url, self._calls = url, calls

    def close(self) -> None:
        """End what stands ready."""
        self._calls.close()

    def preview(
        self,
        study_id: UUID,
        files: Sequence[File],
        progress: Progress = quietly,
        column_map: ColumnMap | None = None,
    ) -> list[IntakeItem]:
        """As `Intake.preview`."""
        return self._calls.run(_preview, self._url, study_id, files, column_map, told=progress)

    def take_in(
        self,
        study_id: UUID,
        files: Sequence[File],
        lanes: Mapping[int, int],
        progress: Progress = quietly,
        column_map: ColumnMap | None = None,
    ) -> IntakeResult:
        """As `Intake.take_in`."""
        return self._calls.run(
            _take_in, self._url, study_id, files, lanes, column_map, told=progress
        )

    def new_study(
        self,
        title: str,
        files: Sequence[File],
        progress: Progress = quietly,
        column_map: ColumnMap | None = None,
    ) -> IntakeResult:
        """As `Intake.new_study`."""
        return self._calls.run(_new_study, self._url, title, files, column_map, told=progress)


def _intake(url: str, tell: Progress) -> Intake:
    connect(url)
    events, library = PostgresEventLog(), PostgresLibrary()
    studies = PostgresStudyRepository(library, events)
    readings, maps = PostgresReadingRepository(events), PostgresColumnMaps()
    return Intake(studies, readings, library, maps, together, tell)


def _preview(
    url: str,
    study_id: UUID,
    files: Sequence[File],
    column_map: ColumnMap | None,
    tell: Progress,
) -> list[IntakeItem]:
    return _intake(url, tell).preview(study_id, files, column_map)


def _take_in(
    url: str,
    study_id: UUID,
    files: Sequence[File],
    lanes: Mapping[int, int],
    column_map: ColumnMap | None,
    tell: Progress,
) -> IntakeResult:
    return _intake(url, tell).take_in(study_id, files, lanes, column_map)


def _new_study(
    url: str,
    title: str,
    files: Sequence[File],
    column_map: ColumnMap | None,
    tell: Progress,
) -> IntakeResult:
    return _intake(url, tell).new_study(title, files, column_map)


class BoundedPacking:
    """Packages taken in within a process of its own, which none can make use up more than its
    bounds."""

    def __init__(self, url: str, calls: BoundedCalls):
        self._url, self._calls = url, calls

    def look(self, file: Path, choices: PackageChoices) -> PackageTaken:
        """What a package would bring; nothing is kept."""
        return self._calls.run(_package, self._url, file, choices, False, acting.get())

    def take_in(self, file: Path, choices: PackageChoices) -> PackageTaken:
        """Keep everything of a package, or nothing."""
        return self._calls.run(_package, self._url, file, choices, True, acting.get())


def _package(
    url: str,
    file: Path,
    choices: PackageChoices,
    is_kept: bool,
    who: Principal | None,
    _tell: Progress,
) -> PackageTaken:
    connect(url)
    acting.set(who)
    return take_package(PostgresPackages(PostgresEventLog()), file, choices, is_kept)


@dataclass(frozen=True)
class Bench:
    """Everything that an interface needs."""

    settings: Settings
    url: str
    host: str
    library: PostgresLibrary
    studies: PostgresStudyRepository
    queue: PostgresRunQueue
    readings: PostgresReadingRepository
    events: PostgresEventLog
    conductor: Conductor
    runner: StudyRunner
    images: GuestImages
    guest_rig: GuestRig
    machines: PostgresMachineQueue
    enrolled: EnrolledMachines
    intake: BoundedIntake
    access: PostgresAccess
    corrections: PostgresCorrections
    column_maps: PostgresColumnMaps
    things: PostgresThings
    outlooks: Outlooks
    images_here: HostImages
    proofs: Proofs
    reactions: PostgresReactions
    beside: PostgresBeside
    ever: PostgresStandings
    weight_sets: PostgresWeightSets
    own_measures: PostgresOwnMeasures
    incidents: PostgresIncidents
    scorecards: PostgresScorecards
    health: PostgresHealth
    reports: PostgresReports
    publishing: Publishing
    packages: PostgresPackages
    packing: BoundedPacking

    def serving(self) -> tuple[str, str | None]:
        """Address of the running server, and its certificate's sha256. Raises BadInputError."""
        return serving(self.settings.data)

    def disk(self) -> tuple[int, int]:
        """Bytes free, and of all, where the bench book stands."""
        found = shutil.disk_usage(self.settings.data)
        return found.free, found.total

    def intake_here(self, progress: Progress = quietly) -> Intake:
        """Intake within this very process: of a person's own files."""
        return Intake(
            self.studies, self.readings, self.library, self.column_maps, together, progress
        )


def wire(settings: Settings, url: str) -> Bench:
    """Put the parts together on the database at `url`, migrated."""
    bound = connect(url)
    migrate(bound, url, None if settings.database_url else _backup_in(settings, url))
    events = PostgresEventLog()
    library = PostgresLibrary()
    studies = PostgresStudyRepository(library, events)
    queue = PostgresRunQueue(url, events)
    images = GuestImages(settings.guests)
    machines = PostgresMachineQueue(library)
    guest_rig = _guest_rig(settings, images)
    readings = PostgresReadingRepository(events)
    host = socket.gethostname()
    calls = BoundedCalls(preload=("haremile.bootstrap",))
    rigs = _rigs(settings, guest_rig, machines)
    watches = [watch(studies, readings, queue) for watch in (PrecisionWatch, DecidedWatch)]
    conductor = Conductor(studies, queue, events, rigs, host=host, end_watches=watches)
    proofs = Proofs(guest_rig, studies)
    things, ever, reports = PostgresThings(), PostgresStandings(), PostgresReports(events)
    scorecards, incidents = PostgresScorecards(), PostgresIncidents()
    sources = Sources(studies, readings, ever, things, scorecards, incidents, reports)
    return Bench(
        settings=settings,
        url=url,
        host=host,
        library=library,
        studies=studies,
        queue=queue,
        readings=readings,
        events=events,
        conductor=conductor,
        runner=StudyRunner(conductor, studies, events, proofs.under_way),
        images=images,
        guest_rig=guest_rig,
        machines=machines,
        corrections=PostgresCorrections(events),
        column_maps=PostgresColumnMaps(),
        things=things,
        images_here=HostImages(settings.guests),
        proofs=proofs,
        reactions=PostgresReactions(events),
        beside=PostgresBeside(events),
        ever=ever,
        weight_sets=PostgresWeightSets(),
        own_measures=PostgresOwnMeasures(),
        incidents=incidents,
        scorecards=scorecards,
        health=PostgresHealth(),
        reports=reports,
        publishing=Publishing(sources, report_content, partial(report_page, settings.web / REPORT)),
        packages=PostgresPackages(events),
        packing=BoundedPacking(url, calls),
        outlooks=Outlooks(PostgresPastRuns(), events.last_instant),
        enrolled=EnrolledMachines(machines, events, _job, read=_reader(calls)),
        access=PostgresAccess(),
        intake=BoundedIntake(url, calls),
    )


def _guest_rig(settings: Settings, images: GuestImages) -> GuestRig:
    return GuestRig(
        images,
        AcceleratorProof(images, settings.data / "accelerator.json"),
        MeminfoWatch,
        archive=lambda: probe_archive(settings.data),
        calm_s=settings.calm_s,
    )


def _rigs(
    settings: Settings, guest_rig: GuestRig, machines: PostgresMachineQueue
) -> dict[str, Rig]:
    """Every rig by the name that installs give it."""
    return {
        "guest": guest_rig,
        "enrolled": EnrolledRig(machines),
        "here": LocalRig(lambda: probe_archive(settings.data)),
        "person": PersonRig(machines),
        "simulated": SimulatedRig(with_own(simulated_truths()), settings.simulated_speed),
    }


def _reader(calls: BoundedCalls) -> Callable[[bytes], Capture]:
    """Reads captures: small ones here, large ones within bounds."""

    def read(body: bytes) -> Capture:
        return parse_capture(body) if len(body) <= SMALL_CAPTURE else calls.run(_parsed, body)

    return read


def _parsed(body: bytes, _tell: Progress) -> Capture:
    return parse_capture(body)


def _job(job: MachineJob) -> Job:
    return probe_job(job.procedure, job.conditions, job.install.recipe)


def probe_archive(folder: Path) -> Path:
    """The probe's archive as a file, written where it is missing or another."""
    path, body = folder / NAME, read_probe_archive()
    if not path.exists() or path.read_bytes() != body:
        folder.mkdir(parents=True, exist_ok=True)
        fresh = path.with_suffix(".part")
        fresh.write_bytes(body)
        fresh.replace(path)
    return path


def _backup_in(settings: Settings, url: str) -> Callable[[str], None]:
    """Keeps the data as they are before a step of the schema changes them."""

    def before(step: str) -> None:
        folder = Path(settings.data) / "backups"
        folder.mkdir(mode=0o700, exist_ok=True)
        target = folder / f"before-{step}-{time.strftime('%Y%m%d-%H%M%S')}.dump"
        log.warning("the schema is brought up to date (%s); backup before it: %s", step, target)
        write_backup(url, target, log.info)

    return before


@contextmanager
def open_database(settings: Settings) -> Iterator[str]:
    """The address of a running database: the user's own, or our cluster while this is open."""
    if settings.database_url is not None:
        yield settings.database_url
        return
    cluster = Cluster(Path(settings.data))
    try:
        yield cluster.start()
    finally:
        cluster.stop()


@contextmanager
def open_bench(settings: Settings) -> Iterator[Bench]:
    """A bench on a running database; everything is stopped at the end."""
    with open_database(settings) as url:
        bench = wire(settings, url)
        try:
            yield bench
        finally:
            bench.runner.stop()
            bench.intake.close()
            database.obj.close_all()
