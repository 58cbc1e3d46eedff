"""What the use cases need from the outside world."""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Protocol
from uuid import UUID

from haremile.core.by_hand.reaction import Reaction
from haremile.core.comparison.records import Observation, RunOutcome, row_key
from haremile.core.records.draft import Draft, Order
from haremile.core.records.install_history import StateChange
from haremile.core.records.library import Aliases, Claim, Noun, Source, Thing
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import metric
from haremile.core.records.own_measure import OwnMeasure
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.report import ReportWords
from haremile.core.records.study import (
    Answer,
    Install,
    Machine,
    Run,
    RunState,
    Study,
    StudyState,
)
from haremile.core.records.units import in_unit
from haremile.core.standing.arms import Arm, Question
from haremile.core.standing.bands import Bands
from haremile.core.standing.incidents import HoursInUse, Incident
from haremile.core.standing.scorecard import Scorecard
from haremile.core.standing.total import Ends
from haremile.core.standing.works import WorksItem
from haremile.formats.column_map import ColumnMap
from haremile.formats.data_package import Package, Table
from haremile_probe.wire import Capture, CaptureReading, CaptureTrace

EVENT_CHANNEL = "haremile_event"
"""Where the database tells that something happened."""

Together = Callable[[], AbstractContextManager[object]]
"""Everything done on the bench book within it stands, or nothing of it does."""

Progress = Callable[[str, int, int], None]
"""Told how far something is: what is done, how much of it, and of how much."""

ReportPhase = Callable[[str, float | None], None]
"""Called at each phase of a run: its name, and seconds since power-on where known."""


@dataclass(frozen=True)
class RunOrder:
    """What a rig is asked to do."""

    run_id: UUID
    attempt: int
    procedure: str
    install: Install
    seed: int
    lane_no: int
    block: int
    conditions: Mapping[str, str] = field(default_factory=dict)
    """What the plan states of it, such as the application of a launch."""


class Rig(Protocol):
    """Operates a machine. One call is one run.

    Raises `RunFailedError` where the run gave no readings, `MissingHereError` where this host
    lacks what the rig needs.
    """

    @property
    def procedures(self) -> frozenset[str]:
        """What this rig can do."""

    def run(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        """Carry the order out and bring back everything it gave."""

    def interrupt(self, run_id: UUID | None = None) -> None:
        """End this run, or all that are under way, at once; they count as not carried out."""


@dataclass(frozen=True)
class ImageHere:
    """An image on this host; `image` is what a recipe names. Size in bytes, None where it is not a
    single file."""

    image: str
    label: str
    origin: str
    size: int | None
    sha256: str | None


class Images(Protocol):
    """Images from which guests can be made."""

    def here(self) -> list[ImageHere]:
        """All that are on this host."""

    def check(self, recipe: Mapping[str, str]) -> None:
        """Raises BadInputError where its image is none that is here, or *ready* is told by no way
        that there is."""

    def take(self, name: str, size: int, parts: Iterable[bytes]) -> ImageHere:
        """Keep one. Raises BadInputError, ConflictError or NoSpaceError; nothing is then kept."""

    def copy(self, source: Path, told: Callable[[int, int], None]) -> ImageHere:
        """The same from a file of this host."""

    def delete(self, name: str) -> ImageHere:
        """Delete a tester's own image. Raises NotFoundError."""


@dataclass(frozen=True)
class GuestView:
    """What is seen of a guest: its last lines, and its screen (PNG) where it has one."""

    lines: Sequence[str]
    picture: bytes | None


class GuestWork(Rig, Protocol):
    """Guests, and what is seen of them while they run."""

    def check(self, install: Install) -> None:
        """Raises BadInputError or MissingHereError where its recipe is not valid here."""

    def view(self, run_id: UUID) -> GuestView:
        """What is seen of the guest of a run; nothing where it does not run."""


class SettleWatch(Protocol):
    """Watches memory records until the machine is settled."""

    @property
    def rule_text(self) -> str:
        """The rule as a condition value."""

    @property
    def timeout_s(self) -> float:
        """When waiting ends, seconds after the first record."""

    def add(self, uptime_s: float, meminfo: str) -> bool:
        """Take one record; tell whether the machine is settled."""

    def picked(self) -> str | None:
        """The record from which idle memory is read; None while not settled."""

    def trace(self) -> CaptureTrace:
        """The whole curve."""


@dataclass(frozen=True)
class StoredReading:
    """A reading as it stands in the bench book."""

    id: UUID
    run_id: UUID
    block: int
    lane_no: int
    metric: str
    method: str
    value: float
    unit: str
    resolution: float | None
    conditions: Mapping[str, str]
    at: datetime | None
    capture_id: UUID | None
    set_aside: str | None
    step: int = 0
    machine: str = ""
    value_before: float | None = None
    """What stood there before a person corrected it."""
    half_width: float | None = None
    """To which it is good on either side, where a person's hand, a frame or a last place tells."""

    @property
    def row_key(self) -> str:
        """The row of the verdict sheet that it belongs to."""
        return row_key(self.metric, self.machine, self.method, self.conditions)


@dataclass(frozen=True)
class StoredTrace:
    """A run's curve; `times_s` count from boot."""

    run_id: UUID
    lane_no: int
    block: int
    metric: str
    unit: str
    times_s: Sequence[float]
    values: Sequence[float]


@dataclass(frozen=True, slots=True)
class NewReading:
    """A reading about to be kept; value and unit canonical."""

    metric: str
    method: str
    value: float
    unit: str
    resolution: float | None = None
    step: int = 0
    set_aside: str | None = None
    conditions: Mapping[str, str] | None = None
    """Those of this reading, where they differ from those of its attempt."""

    @classmethod
    def of(cls, found: CaptureReading, shared: Mapping[str, str]) -> "NewReading":
        """A capture's reading in its canonical unit; `shared` are the conditions of the capture."""
        unit = metric(found.metric).unit
        value = in_unit(found.value, found.unit, unit)
        resolution = found.resolution and in_unit(found.resolution, found.unit, unit)
        own = {**shared, **found.conditions} if found.conditions else None
        return cls(found.metric, found.method, value, unit, resolution, found.step, conditions=own)


@dataclass(frozen=True, slots=True)
class NewAttempt:
    """A finished try at a run that was carried out elsewhere and is brought in.

    Where `block` is None it goes into the contender's first block in which no such run is finished;
    where `counts_free` is true, `block` counts only such blocks.
    """

    lane_no: int
    block: int | None
    procedure: str
    repeat: int
    state: RunState
    reason: str | None
    conditions: Mapping[str, str]
    readings: Sequence[NewReading]
    at: datetime | None = None
    traces: Sequence[CaptureTrace] = ()
    counts_free: bool = False


@dataclass(frozen=True)
class StoredCapture:
    """Evidence as it was brought in; `made_at` is None where what it stated could not be meant."""

    id: UUID
    sha256: str
    made_at: datetime | None
    kind: str
    body: bytes


@dataclass(frozen=True)
class BroughtFile:
    """A file or capture that was brought into a study, its size in bytes; how many runs and
    readings rest on it."""

    id: UUID
    kind: str
    brought_at: datetime
    sha256: str
    size: int
    runs: int
    readings: int
    put_away_at: datetime | None


@dataclass(frozen=True)
class EvidenceSizes:
    """Bytes of evidence kept: of all, and of those on which no reading rests; and how many."""

    all_bytes: int
    all_count: int
    spare_bytes: int
    spare_count: int


@dataclass(frozen=True)
class Event:
    """Something that happened; ids grow."""

    id: int
    at: datetime
    kind: str
    study_id: UUID | None
    run_id: UUID | None
    facts: Mapping[str, object] = field(default_factory=dict)


@dataclass(frozen=True)
class StudyPlan:
    """What a new study is made of."""

    title: str
    installs: Sequence[Install]
    blocks: int
    seed: int
    margins: Mapping[str, Margin] = field(default_factory=dict)
    procedures: Sequence[str] = ("boot",)
    interim_looks: Sequence[int] = ()
    stopping: PrecisionPlan | None = None
    order: Order = Order.BLOCKS


@dataclass(frozen=True)
class StudyDigest:
    """A study in a list."""

    id: UUID
    title: str
    state: StudyState
    created_at: datetime
    contenders: Sequence[str]
    machines: Sequence[str]
    runs: int
    finished: int
    failed: int
    can_run: bool
    answer: Answer | None = None
    is_current: bool = False
    """Whether nothing has happened in the study since its answer was calculated."""
    tags: Sequence[str] = ()


@dataclass(frozen=True)
class Lease:
    """A run in the hands of one worker, with the fence that its writes must show."""

    run: Run
    install: Install
    seed: int
    attempt_id: UUID


class StudyRepository(Protocol):
    """Studies and their plans."""

    def create(self, plan: StudyPlan) -> Study:
        """Keep a new study with its run sheet."""

    def create_draft(self, title: str, draft: Draft) -> Study:
        """Keep a new study that is not started; an empty one that is there already serves again."""

    def keep_draft(self, study_id: UUID, title: str, draft: Draft) -> None:
        """Keep what was typed. Raises ConflictError where the study was started since."""

    def start(self, study_id: UUID, plan: StudyPlan) -> Study:
        """A draft becomes a study with its run sheet. Raises ConflictError where it is none."""

    def get(self, study_id: UUID) -> Study:
        """Raises NotFoundError."""

    def last_change(self, study_id: UUID) -> tuple[int, datetime]:
        """The newest event of a study that may have changed what it holds. Raises NotFoundError."""

    def digests(self, put_away: bool = False) -> list[StudyDigest]:
        """All studies, the newest first; or all that were put away."""

    def keep_answer(self, study_id: UUID, event_id: int, answer: Answer) -> None:
        """Keep what a study answers after this event of it; an older one gives way."""

    def titles_planned(self) -> set[str]:
        """Titles under which studies were ever planned here, whatever became of them."""

    def set_state(self, study_id: UUID, state: StudyState) -> None:
        """Change where the study stands; an event tells it."""

    def override(self, study_id: UUID, key: str, reason: str | None) -> None:
        """Accept the difference of a condition for a reason, or (None) no more."""

    def extend(self, study_id: UUID, blocks: int) -> Study:
        """Add so many blocks after the last one; the study's interim looks gain an extension."""

    def join(self, study_id: UUID, install: Install) -> Study:
        """Let an install take part that was not planned; its lane says that it joined after."""

    def runs(self, study_id: UUID) -> list[Run]:
        """The run sheet in order."""

    def outcomes(self, study_id: UUID, with_aside: bool = False) -> list[RunOutcome]:
        """The run sheet as findings need it; failed runs that were set aside only `with_aside`."""


class Corrections(Protocol):
    """What a person changes of what is kept: each change tells what was there before."""

    def rename_study(self, study_id: UUID, title: str) -> None:
        """Give a study another title. Raises NotFoundError."""

    def annotate(self, study_id: UUID, note: str | None, tags: Sequence[str] | None) -> None:
        """Another note, other tags; what is None stays. Raises NotFoundError."""

    def put_study_away(self, study_id: UUID, is_away: bool) -> None:
        """Out of every list, or back. Raises ConflictError while it runs."""

    def delete_study(self, study_id: UUID, title: str) -> int:
        """Delete for good a study that was put away, with its readings and the evidence that no
        other study holds; return how many readings went.

        Raises
        ------
        BadInputError
            If `title` is not the study's.
        ConflictError
            If it was not put away before.
        """

    def correct_reading(self, reading_id: UUID, value: float, unit: str, reason: str) -> None:
        """Another value of a reading that a person or a file stated.

        Raises
        ------
        ConflictError
            If a machine read it: its evidence says what it is.
        BadInputError
            If the value cannot be.
        """

    def take_correction_back(self, reading_id: UUID) -> None:
        """The value that was brought in stands again."""

    def brought(self, study_id: UUID) -> list[BroughtFile]:
        """What was brought into a study, the newest first."""

    def put_file_away(self, study_id: UUID, capture_id: UUID, is_away: bool) -> int:
        """All runs that a file gave count no more, or again; return how many."""

    def evidence_sizes(self) -> EvidenceSizes:
        """How much evidence is kept."""

    def trim_evidence(self, most_bytes: float) -> EvidenceSizes:
        """Delete the oldest evidence on which no reading rests until all fits; what then is."""


class StudyLease(Protocol):
    """A worker's hold on a study, which others may share."""

    id: int

    def beat(self, runs: Collection[UUID]) -> set[UUID]:
        """Give a sign of life for these runs; return those that are still its own."""


class RunQueue(Protocol):
    """Hands out runs one by one and takes their results, each step a transaction."""

    def lease_next(
        self,
        study_id: UUID,
        holder: int | None = None,
        host: str | None = None,
        resting: Sequence[str] = (),
    ) -> Lease | None:
        """The next planned run on a free machine of the host, in order; None where none is."""

    def hosts(self, study_id: UUID) -> dict[str, int]:
        """Hosts that carry machines of the study, each with the runs it carries at once."""

    def open_runs(self, study_id: UUID, host: str | None = None) -> int:
        """How many runs are planned or under way, on this host or on all."""

    def begin(self, lease: Lease) -> None:
        """The run has started."""

    def finish(self, lease: Lease, capture: Capture, body: bytes) -> None:
        """Keep the capture and its readings. Raises StaleAttemptError if overtaken."""

    def release_lost(self, study_id: UUID) -> int:
        """Plan again what workers had leased that are gone."""

    def release(self, study_id: UUID, holder: int | None = None) -> int:
        """Plan again what this holder has under way, or what all have."""

    def end_after(self, study_id: UUID, block: int, reason: str) -> int:
        """Skip what is planned beyond a block, with the reason; that block is then the last."""

    def is_held(self, study_id: UUID) -> bool:
        """Whether some worker is at work on the study."""

    def hold(self, study_id: UUID) -> AbstractContextManager[StudyLease]:
        """This worker's hold on a study."""

    def plan_again(self, run_id: UUID) -> None:
        """Plan a failed or void run as a new attempt. Raises ConflictError otherwise."""

    def plan_failed_again(self, study_id: UUID) -> int:
        """Plan every run that failed or could not be measured as a new attempt; return how many."""

    def skip(self, run_id: UUID, reason: str) -> None:
        """Leave a planned run out, with its reason. Raises ConflictError otherwise."""

    def set_aside(self, run_id: UUID, reason: str | None) -> None:
        """Set a failed run aside with a reason, or let it count again where that is None.

        Raises ConflictError where the run is neither.
        """


@dataclass(frozen=True)
class MachineJob:
    """What an enrolled machine is asked to do for one attempt at a run.

    Attributes
    ----------
    stage : str
        ``asked`` → ``answered`` → ``over``; the last also where it is wanted no more.
    stamps : mapping of a phase's name to the instant, seconds since the epoch by this server
        ``ordered`` (to restart), ``last_sign``, ``first_sign``, ``begun``; and under ``boot_id``
        the boot in which it was ordered.
    """

    id: UUID
    study_id: UUID
    run_id: UUID
    attempt: int
    install: Install
    identity: UUID | None
    procedure: str
    conditions: Mapping[str, str]
    stage: str
    stamps: Mapping[str, float | str]
    body: bytes | None


@dataclass(frozen=True)
class MachineSign:
    """The last sign of an enrolled machine: when, and in which install."""

    machine: str
    seen_at: datetime
    boot_id: str
    is_leaving: bool
    system: str | None


@dataclass(frozen=True)
class MachineKey:
    """A key of a machine, by the name that may be told to everyone."""

    name: str
    made_at: datetime
    revoked_at: datetime | None


class MachineQueue(Protocol):
    """Enrolled machines: their keys, their signs, and what they are asked to do."""

    def new_key(self, machine: str) -> str:
        """A fresh key of a machine; it is shown this once. Raises NotFoundError."""

    def keys(self, machine: str) -> list[MachineKey]:
        """All keys of a machine that were ever made, the newest first."""

    def revoke_keys(self, machine: str) -> int:
        """Make all keys of a machine worthless; return how many there were."""

    def key_named(self, name: str) -> tuple[str, str, bool] | None:
        """The secret of a key, its machine, and whether it was revoked; None for no key."""

    def enrol(self, machine: str, system: str, identity: UUID) -> Install:
        """Keep an install that a machine works in."""

    def note_sign(self, machine: str, identity: UUID, boot_id: str, is_leaving: bool) -> None:
        """Keep the last sign of a machine."""

    def signs(self) -> list[MachineSign]:
        """The last sign of every enrolled machine."""

    def put(self, order: RunOrder) -> MachineJob:
        """Ask a machine for a run; the same attempt again is the same job."""

    def job(self, run_id: UUID, attempt: int) -> MachineJob | None:
        """What was asked for this attempt."""

    def next_job(self, machine: str) -> MachineJob | None:
        """The oldest that is still to be answered."""

    def stamp(self, job_id: UUID, stamps: Mapping[str, float | str]) -> None:
        """Add stamps; those that stand stay."""

    def was_deleted(self, run_id: UUID) -> bool:
        """Whether this run was there, and was deleted for good with its study."""

    def answer(self, job_id: UUID, body: bytes) -> None:
        """Keep what the machine brought, for whoever waits for it."""

    def waiting(self, rig: str) -> list[MachineJob]:
        """What waits for an answer of machines that such a rig operates, the oldest first."""

    def keep_late(self, run_id: UUID, attempt: int, capture: Capture, body: bytes) -> bool:
        """Keep a capture of an attempt that was overtaken as evidence; False if it was known.

        Raises CaptureConflictError where it is known with other bytes, NotFoundError where there
        was no such attempt.
        """


@dataclass(frozen=True)
class Drill:
    """A drill of a person, and what it told."""

    id: UUID
    person: str
    at: datetime
    reaction: Reaction


@dataclass(frozen=True)
class Quoted:
    """A figure from elsewhere, beside a row of the verdict sheet; never in a verdict.

    Attributes
    ----------
    low, high : float
        In the metric's canonical unit; alike where it is one value.
    source : str
        Who says so, and where.
    dated : str
        Year, month or day of the source, as ISO 8601 writes it.
    """

    id: UUID
    study_id: UUID
    lane_no: int
    row_key: str
    metric: str
    low: float
    high: float
    unit: str
    source: str
    dated: str
    at: datetime


@dataclass(frozen=True)
class Photograph:
    """A photograph beside a run, written as a ``data:`` address."""

    id: UUID
    run_id: UUID
    name: str
    image: str
    at: datetime


class Beside(Protocol):
    """What stands beside measurements and never enters them."""

    def quote(self, figure: Quoted) -> None:
        """Keep a figure, once. Raises NotFoundError, ConflictError if there are too many."""

    def withdraw_quoted(self, key: UUID, is_withdrawn: bool) -> None:
        """Take a figure out, or bring it back. Raises NotFoundError."""

    def quoted(self, study_id: UUID) -> list[Quoted]:
        """Figures that are quoted in a study, the oldest first."""

    def photograph(self, key: UUID, run_id: UUID, name: str, image: str) -> None:
        """Keep a photograph, once. Raises NotFoundError, ConflictError if there are too many."""

    def photographs(self, run_id: UUID) -> list[Photograph]:
        """Photographs beside a run, the oldest first."""

    def withdraw_photograph(self, key: UUID, is_withdrawn: bool) -> None:
        """Take a photograph out, or bring it back. Raises NotFoundError."""


@dataclass(frozen=True)
class HandTimed:
    """An attempt that a person timed; `readings` tells the id of each that stands uncorrected."""

    attempt_id: UUID
    run_id: UUID
    study_id: UUID
    body: bytes
    readings: Mapping[str, UUID]


@dataclass(frozen=True)
class Retimed:
    """A reading after the person's delay was taken off."""

    reading_id: UUID
    metric: str
    value_s: float
    resolution_s: float


class Reactions(Protocol):
    """Drills of persons who time by hand."""

    def without_drill(self, person: str, since: datetime) -> list[HandTimed]:
        """What a person timed since an instant from which nothing was taken off."""

    def retime(self, timed: HandTimed, stated: str, readings: Sequence[Retimed]) -> None:
        """Write the readings of an attempt anew, with the reaction that they state; told in the
        audit trail with what stood there before."""

    def keep(self, key: UUID, person: str, answers_s: Sequence[float], found: Reaction) -> Drill:
        """Keep a drill under its id; the same id again is the same drill."""

    def get(self, key: UUID) -> Drill:
        """Raises NotFoundError."""

    def newest(self, person: str, since: datetime) -> Drill | None:
        """The newest of a person since an instant; None where there is none."""


class ReadingRepository(Protocol):
    """Readings and their evidence."""

    def observations(self, study_id: UUID) -> list[Observation]:
        """All readings as findings need them."""

    def readings(self, study_id: UUID, metric: str | None = None) -> list[StoredReading]:
        """All readings with where they stand, in run order."""

    def traces(self, study_id: UUID, metric: str) -> list[StoredTrace]:
        """The curves of each run's newest attempt, in run order."""

    def metrics_read(self, study_id: UUID) -> list[str]:
        """The metrics of which the study has a reading."""

    def observed_conditions(self, study_id: UUID) -> dict[int, Mapping[str, str]]:
        """The conditions under which each lane's newest reading was taken."""

    def traced(self, study_id: UUID) -> list[str]:
        """The metrics of which some run of the study has a curve."""

    def set_aside(self, reading_id: UUID, reason: str | None) -> None:
        """Set a reading aside with its reason, or (None) take that back."""

    def take_in(
        self,
        study_id: UUID,
        capture: StoredCapture,
        attempts: Sequence[NewAttempt],
        progress: Callable[[int], None] = lambda runs: None,
    ) -> bool:
        """Keep runs brought in from elsewhere, in order; False where the study has this capture.

        `progress` is told how many runs are kept.
        """

    def known_digests(self, capture_ids: Sequence[UUID]) -> dict[UUID, str]:
        """The sha256 of each of these captures that is known already."""

    def held(self, study_id: UUID, capture_ids: Sequence[UUID]) -> set[UUID]:
        """Those of these captures that a run of the study rests on."""

    def studies_with(self, sha256: str) -> list[str]:
        """Titles of the studies that hold a file with these bytes, the newest first."""

    def capture(self, capture_id: UUID) -> StoredCapture:
        """Raises NotFoundError."""

    def capture_of_run(self, run_id: UUID) -> StoredCapture:
        """Evidence of a run's newest attempt. Raises NotFoundError."""


@dataclass(frozen=True, slots=True)
class PastSpread:
    """How the readings of one install in one study lay: their number, mean, variance and third
    central moment; `app` and `start` are empty where they are no launches."""

    machine: str
    metric: str
    method: str
    app: str
    start: str
    n: int
    mean: float
    variance: float
    third: float


class PastRuns(Protocol):
    """What past runs tell of the next ones."""

    def spreads(self, machines: Sequence[str]) -> list[PastSpread]:
        """Of each install in each study on these machines, for each measure, how readings lay."""

    def typical_s(self, machines: Sequence[str]) -> dict[tuple[str, str], float]:
        """The median length of the runs of a machine and a procedure, seconds."""

    def beginnings(self, installs: Sequence[UUID]) -> dict[UUID, Mapping[str, str]]:
        """The conditions that each install's newest run stated."""


class ColumnMaps(Protocol):
    """What the columns of a tester's own tables mean."""

    def known(self, header: Sequence[str]) -> ColumnMap | None:
        """What was said of this very header last; None where nothing was."""

    def keep(self, header: Sequence[str], found: ColumnMap) -> None:
        """Remember what the columns of this header mean."""


class EventLog(Protocol):
    """What happened, append only."""

    def add(
        self, kind: str, study_id: UUID | None, run_id: UUID | None = None, **facts: object
    ) -> None:
        """Append an event."""

    def after(self, event_id: int, study_id: UUID | None = None, most: int = 500) -> list[Event]:
        """Events with a greater id, in order."""

    def last_id(self) -> int:
        """Id of the newest event, 0 for none."""

    def of_kind(self, kind: str, study_id: UUID) -> list[Event]:
        """All events of a kind in a study, in order."""

    def newest(self, kinds: Sequence[str]) -> dict[UUID, Event]:
        """The newest event of these kinds in each study."""


class Library(Protocol):
    """Systems, machines and installs."""

    def installs(self) -> list[Install]:
        """All installs by name."""

    def note_machine(self, name: str, facts: Mapping[str, str]) -> None:
        """Note what a machine stated of itself; what is noted already stands."""

    def ensure_machine(self, machine: Machine) -> None:
        """Note a machine that was not known."""

    def ensure(self, install: Install) -> Install:
        """Return the install of this system, machine and name, kept if it was not known."""

    def make_guests(self, machines: Sequence[Machine]) -> list[UUID]:
        """Note virtual machines with their profiles, all or none. Raises ConflictError where a name
        is taken."""

    def recipe_of(self, system: UUID) -> dict[str, str]:
        """What a guest of this system boots, empty where nothing is stated. Raises
        NotFoundError."""

    def state_recipe(self, system: UUID, recipe: Mapping[str, str]) -> None:
        """State what guests of a system boot; those that were made of it before follow."""

    def booted_by(self, image: str) -> list[str]:
        """The systems whose guests boot an image, by name."""

    def put_by_hand(self, system: UUID, machine: UUID) -> Install:
        """The install of a system on a machine that a person operates, made where there is none.
        Raises NotFoundError, ConflictError."""

    def put_on(self, system: UUID, machine: UUID) -> Install:
        """The install of a system on a virtual machine, made where there is none. Raises
        NotFoundError, ConflictError."""

    def aliases(self) -> Aliases:
        """The present name of everything that had another before."""


@dataclass(frozen=True)
class InstallHistory:
    """An install, and where the state in which its runs found it changed; `added` is what a person
    says that was added since installing, empty where nothing is said."""

    install: Install
    changes: Sequence[StateChange]
    runs: int
    is_put_away: bool
    added: str = ""


@dataclass(frozen=True)
class PastStudy:
    """What one study read of one metric; `other` is the machine of a system, or the system on a
    machine."""

    study: UUID
    title: str
    at: datetime
    metric: str
    method: str
    medium: str
    other: str
    values: Sequence[float]


class Things(Protocol):
    """What is known of systems and machines."""

    def all(self, noun: Noun) -> list[Thing]:
        """All of them by name, with the newest of what is stated."""

    def get(self, noun: Noun, key: UUID) -> Thing:
        """One of them, with everything that was ever stated. Raises NotFoundError."""

    def studies_of(self, key: UUID) -> list[tuple[UUID, str]]:
        """Id and title of the studies that it takes part in, the newest first."""

    def installs_of(self, key: UUID) -> list[InstallHistory]:
        """The installs of a system, or on a machine, each with its history."""

    def over_time(self, noun: Noun, key: UUID, metrics: Sequence[str]) -> list[PastStudy]:
        """What each study read of these metrics, in order of time."""

    def make_reference(self, install: UUID, is_one: bool) -> None:
        """Offer an install to every plan on its machine, or no more. Raises NotFoundError."""

    def note_added(self, install: UUID, text: str) -> None:
        """State what was added to an install since installing it. Raises NotFoundError."""

    def put_install_away(self, install: UUID, is_away: bool) -> None:
        """Out of every plan, or back; its readings stay. Raises NotFoundError."""

    def add(self, noun: Noun, name: str, identity: Mapping[str, str | None]) -> UUID:
        """Note one by its name. Raises ConflictError where the name is taken."""

    def rename(self, noun: Noun, key: UUID, name: str) -> None:
        """Call it by another name everywhere; files that bear the old one are still understood."""

    def change(self, noun: Noun, key: UUID, identity: Mapping[str, str | None]) -> None:
        """State what tells it from others; what is not named stays."""

    def put_away(self, noun: Noun, key: UUID, is_away: bool) -> None:
        """Out of every list, or back; its readings stay where they are."""

    def state(self, noun: Noun, key: UUID, fact: str, value: str | None, source: Source) -> None:
        """State a fact anew, or take it out; what was stated before stays in its history."""

    def claims(self, system: UUID) -> list[Claim]:
        """What is claimed of a system, what was taken out at the end."""

    def claim(
        self, system: UUID, key: str, value: float, unit: str, is_own_guess: bool, source: Source
    ) -> None:
        """Note a claim; `value` in its unit as written. Raises BadInputError."""

    def put_claim_away(self, system: UUID, claim: UUID, is_away: bool) -> None:
        """Take a claim out, or bring it back. Raises NotFoundError."""

    def measured(self, system: UUID, metric: str) -> list[tuple[str, str, str, list[float]]]:
        """Readings of a system that count, by machine, method and medium."""


@dataclass(frozen=True)
class WeightSet:
    """Parts with their weights; `figures` are those of the reference when the set was kept, so that
    what is measured later moves no total; `ends` stand for 0 and 100, where they are asked for."""

    name: str
    use: str
    weights: Mapping[str, float]
    reference: str
    figures: Mapping[str, float]
    ends: Ends | None = None
    id: UUID | None = None


class WeightSets(Protocol):
    """Sets of weights for totals."""

    def all(self) -> list[WeightSet]:
        """Those that are not put away, by name."""

    def keep(self, made: WeightSet) -> UUID:
        """Keep a set under its name; one of that name is replaced."""

    def put_away(self, key: UUID, is_away: bool) -> None:
        """Out of the list, or back. Raises NotFoundError."""


class OwnMeasures(Protocol):
    """Measures that testers defined."""

    def all(self) -> list[OwnMeasure]:
        """Those that are not put away, by name."""

    def keep(self, made: OwnMeasure) -> None:
        """Keep one under its key; what is there under it is replaced. Raises ConflictError if there
        are too many."""

    def put_away(self, key: str, is_away: bool) -> None:
        """Out of the list, or back. Raises NotFoundError."""


class Incidents(Protocol):
    """What went wrong while systems were in use, and for how long they were."""

    def incidents(self) -> list[Incident]:
        """All that are not put away, the newest first."""

    def hours(self) -> list[HoursInUse]:
        """All that are not put away, the newest first."""

    def note(self, one: Incident) -> None:
        """Keep an incident under its id; the same again changes nothing. Raises NotFoundError."""

    def note_hours(self, one: HoursInUse) -> None:
        """Keep hours in use under their id; the same again changes nothing."""

    def put_away(self, key: UUID, is_away: bool) -> None:
        """An incident or hours out of the count, or back. Raises NotFoundError."""


@dataclass(frozen=True)
class KeptScorecard:
    """One version of a system's card."""

    system: UUID
    version: int
    at: datetime
    card: Scorecard


@dataclass(frozen=True)
class PlacedPhotograph:
    """A photograph's name, and the study in which it was taken."""

    id: UUID
    name: str
    study: UUID


@dataclass(frozen=True)
class PlacedReading:
    """A reading in the canonical unit of its metric, and its study."""

    id: UUID
    metric: str
    value: float
    study: UUID


class Scorecards(Protocol):
    """What a tester says of systems, and what works on them."""

    def newest(self) -> list[KeptScorecard]:
        """The newest version of every system's card."""

    def versions(self, system: UUID) -> list[KeptScorecard]:
        """All versions of a system's card, the newest first."""

    def keep(self, system: UUID, card: Scorecard, after: int) -> int:
        """Keep the version after `after`; return its number. Raises NotFoundError, ConflictError if
        there is a newer one."""

    def works(self, system: UUID | None = None) -> list[WorksItem]:
        """What was seen, of one system or all, in order of time."""

    def note_works(self, item: WorksItem) -> None:
        """Keep what was seen under its id; the same again changes nothing. Raises NotFoundError."""

    def put_works_away(self, key: UUID, is_away: bool) -> None:
        """A line out of the list, or back. Raises NotFoundError."""

    def photographs_of(self, system: UUID) -> list[PlacedPhotograph]:
        """Photographs beside runs of a system, the newest first."""

    def middle_readings(self, system: UUID) -> list[PlacedReading]:
        """The reading in the middle of each study, measure and method of a system."""


@dataclass(frozen=True)
class ReportVersion:
    """A version of a report: what it says is frozen; `sha256` is of its content, `figures` are
    those of its sections as they are written, `changes` what the one before said otherwise."""

    version: int
    sha256: str
    at: datetime
    figures: Mapping[str, Mapping[str, str]]
    texts: Sequence[str]
    changes: Sequence[str]


@dataclass(frozen=True)
class TakenStudy:
    """A study of a package: `what` is new, more of one that is here, the same as here, or deleted
    here for good."""

    id: UUID
    title: str
    what: str


@dataclass(frozen=True)
class TakenName:
    """A system or machine whose name belongs to another one here."""

    id: UUID
    noun: str
    name: str


@dataclass(frozen=True)
class Differing:
    """Something that is here too and says otherwise there, by the columns that differ."""

    table: str
    name: str
    columns: Sequence[str]


@dataclass(frozen=True)
class OfferedCommands:
    """An install whose commands wait to be approved; until then nothing runs them."""

    install: UUID
    name: str
    commands: Mapping[str, str]


@dataclass(frozen=True)
class PackageTaken:
    """What a package brought, or would bring."""

    origin: UUID
    origin_name: str
    is_own: bool
    studies: Sequence[TakenStudy]
    rows: int
    names: Sequence[TakenName]
    differing: Sequence[Differing]
    commands: Sequence[OfferedCommands]


@dataclass(frozen=True)
class PackageChoices:
    """What a person said: systems and machines that get another name instead of being the same, and
    whether theirs holds where both say otherwise."""

    renamed: frozenset[UUID] = frozenset()
    is_theirs: bool = False


class Packages(Protocol):
    """Bench books, or studies of them, handed on and taken in."""

    def bench(self) -> UUID:
        """Which bench book this is."""

    def known(self) -> list[Table]:
        """The tables that a package can hold, without rows."""

    def tables(self, studies: Sequence[UUID] | None) -> list[Table]:
        """The rows of these studies and of all that they rest on; of everything with None. Raises
        NotFoundError."""

    def look(self, package: Package, choices: PackageChoices) -> PackageTaken:
        """What a package would bring; nothing is kept."""

    def take_in(self, package: Package, choices: PackageChoices) -> PackageTaken:
        """Keep everything of a package, or nothing. Raises BadInputError, ConflictError."""

    def offered(self) -> list[OfferedCommands]:
        """Commands that wait to be approved."""

    def approve(self, install: UUID, is_approved: bool) -> None:
        """Let an install's commands be run, or forget them. Raises NotFoundError."""

    def origin(self, study_id: UUID) -> str | None:
        """Name of the bench book that a study was taken in from; None if from none."""


class ReportShelf(Protocol):
    """Reports, and what was published of them."""

    def words(self, study_id: UUID) -> ReportWords | None:
        """What was written; None where nothing was yet."""

    def write(self, study_id: UUID, words: ReportWords | None) -> None:
        """Keep what is written; None begins again from the findings. Raises NotFoundError."""

    def versions(self, study_id: UUID) -> list[ReportVersion]:
        """All versions, the newest first."""

    def newest(self, study_id: UUID) -> int | None:
        """Number of the newest version; None where nothing was published."""

    def publish(self, study_id: UUID, made: ReportVersion, page: bytes, csv: bytes) -> None:
        """Keep a version with its page and its readings, for good. Raises ConflictError if there is
        one of that number."""

    def page(self, study_id: UUID, version: int) -> bytes:
        """The page of a version, as it was. Raises NotFoundError."""

    def csv(self, study_id: UUID, version: int) -> bytes:
        """The readings of a version as a file. Raises NotFoundError."""


@dataclass(frozen=True)
class BenchFigures:
    """How the bench is: runs by state, those that wait for their turn, seconds for which a machine
    has been waited for at longest (None where none is), bytes of the database, newest event."""

    runs: Mapping[RunState, int]
    queued: int
    waiting_s: float | None
    database_bytes: int
    event: int


class Health(Protocol):
    """How the database is."""

    def is_up(self) -> bool:
        """Whether it answers. Raises StoreUnavailableError where it does not."""

    def figures(self) -> BenchFigures:
        """All figures. Raises StoreUnavailableError."""


class EverMeasured(Protocol):
    """Readings over all studies."""

    def questions(self) -> list[Question]:
        """What has been measured, each metric and method apart, cold apart from warm."""

    def measured(self, asked: Question) -> list[Arm]:
        """The figures that answer a question: a system in a study on a machine, each."""

    def installs(self, asked: Question) -> list[tuple[str, str, str]]:
        """Machine, system and name of the installs that were measured for it at all."""

    def dated(
        self, asked: Question, machine: str, system: str, install: str
    ) -> list[tuple[UUID, datetime, float]]:
        """Every reading of an install with its study, in order of time."""

    def bands(self, metric_key: str) -> Bands | None:
        """The bands of a metric, None where none are set."""

    def set_bands(self, metric_key: str, bands: Bands | None) -> None:
        """Set the bands of a metric, or (None) take them out."""
