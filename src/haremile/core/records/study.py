"""Studies, contenders and runs, with the rules of their states."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from uuid import UUID

from haremile.core.records.draft import Draft, Order
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.memory_sizes import parse_boots, parse_pages, parse_sizes, sizes_text
from haremile.core.records.metrics import is_defined
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.procedures import MEASURE, MEASURE_STEP, PROCEDURES
from haremile.core.records.profile import MachineProfile
from haremile.errors import BadInputError


class RunState(StrEnum):
    """States of a run: planned → leased → running → done | failed | skipped | void."""

    PLANNED = "planned"
    LEASED = "leased"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    SKIPPED = "skipped"
    VOID = "void"

    @property
    def is_finished(self) -> bool:
        """Whether nothing more happens to the run by itself."""
        return self not in (RunState.PLANNED, RunState.LEASED, RunState.RUNNING)

    @property
    def is_under_way(self) -> bool:
        """Whether some conductor has the run in hand."""
        return self in (RunState.LEASED, RunState.RUNNING)

    @property
    def can_be_planned_again(self) -> bool:
        """Whether a new attempt may be asked for."""
        return self in (RunState.FAILED, RunState.VOID)


JOINED_AFTER = "(joined after)"
"""How the name of a contender ends that was not planned, but joined the study later."""

SET_ASIDE = "set aside: "
"""How the reason of a run begins that had failed and is not to count."""

HAD_FAILED = "; it had failed: "
"""What stands there before why it had failed."""


def failure_before(reason: str | None) -> str:
    """Why a run failed, also one that was set aside since."""
    return (reason or "").rpartition(HAD_FAILED)[2]


def run_end(outcome: str) -> RunState:
    """What a finished run is by its outcome: what could not be measured counts neither as done nor
    as a failure of the system; whatever else is not done has failed."""
    ends = {"done": RunState.DONE, "could-not-measure": RunState.VOID}
    return ends.get(outcome, RunState.FAILED)


class StudyState(StrEnum):
    """Where a study stands; a draft has no contenders yet, and no run sheet."""

    DRAFT = "draft"
    PLANNED = "planned"
    RUNNING = "running"
    PAUSED = "paused"
    DONE = "done"


@dataclass(frozen=True)
class System:
    """A release of a distribution in one edition, for one architecture; None is *not stated*."""

    name: str
    distribution: str | None = None
    release: str | None = None
    edition: str | None = None
    architecture: str | None = None


@dataclass(frozen=True)
class Machine:
    """What systems are measured on. `facts` hold cores, memory and storage as stated; `profile` is
    what a virtual machine of ours is made with."""

    name: str
    kind: str = "physical"
    host: str | None = None
    facts: Mapping[str, str] = field(default_factory=dict)
    profile: MachineProfile | None = None


@dataclass(frozen=True)
class Install:
    """A system on a machine; `rig` and `recipe` say what can operate it, None that nothing can.

    A reference takes part in study after study, so that they can be linked.
    """

    system: System
    machine: Machine
    name: str = ""
    rig: str | None = None
    recipe: Mapping[str, str] = field(default_factory=dict)
    id: UUID | None = None
    is_reference: bool = False


@dataclass(frozen=True)
class Contender:
    """An install taking part in a study, in its fixed lane (1, 2, …)."""

    id: UUID
    lane_no: int
    install: Install
    label: str


@dataclass(frozen=True)
class Entrant:
    """Who takes part, on whichever machines: a system, in an install of a name of its own.

    `no` counts entrants (1, 2, …) in the order of their first lanes; it gives colour and mark.
    """

    no: int
    name: str


def entrants(contenders: Sequence[Contender]) -> dict[int, Entrant]:
    """The entrant of each lane, by lane number; one that runs on three machines has three lanes."""
    known: dict[tuple[str, str], Entrant] = {}
    found = {}
    for contender in sorted(contenders, key=lambda one: one.lane_no):
        install = contender.install
        key = (install.system.name, install.name)
        late = contender.label.endswith(JOINED_AFTER)
        name = f"{install_name(install)} {JOINED_AFTER}" if late else install_name(install)
        found[contender.lane_no] = known.setdefault(key, Entrant(len(known) + 1, name))
    return found


def install_name(install: Install) -> str:
    """Its system, and what tells it from others of that system on its machine."""
    return f"{install.system.name} ({install.name})" if install.name else install.system.name


def install_labels(installs: Sequence[Install]) -> list[str]:
    """The shortest names that tell installs apart."""
    machines = {install.machine.name for install in installs}
    labels = []
    for install in installs:
        label = install_name(install)
        labels.append(f"{label} on {install.machine.name}" if len(machines) > 1 else label)
    return labels


@dataclass(frozen=True)
class Answer:
    """What a study answers in a few words, what that speaks of, and its verdict ("" for none)."""

    headline: str
    about: str
    verdict: str


@dataclass(frozen=True)
class Study:
    """One question with its plan; `interim_looks` is None where verdicts are read once, at the end.

    `overrides` gives the reason for which a condition's difference is accepted, by its key. `draft`
    is what was typed, None once it is started.
    """

    id: UUID
    title: str
    state: StudyState
    seed: int
    blocks: int
    created_at: datetime
    contenders: tuple[Contender, ...]
    margins: Mapping[str, Margin]
    interim_looks: InterimLooks | None = None
    stopping: PrecisionPlan | None = None
    procedures: tuple[str, ...] = ("boot",)
    overrides: Mapping[str, str] = field(default_factory=dict)
    is_put_away: bool = False
    order: Order = Order.BLOCKS
    draft: Draft | None = None
    note: str = ""
    tags: tuple[str, ...] = ()


@dataclass(frozen=True)
class Run:
    """One execution of a procedure for a contender; `attempt` counts the tries at it."""

    id: UUID
    study_id: UUID
    contender_id: UUID
    lane_no: int
    block: int
    position: int
    procedure: str
    state: RunState
    attempt: int
    reason: str | None = None
    conditions: Mapping[str, str] = field(default_factory=dict)
    started_at: datetime | None = None
    finished_at: datetime | None = None


WARM = "warm"
_STEP = re.compile(r"[0-9]{1,12}(\.[0-9]{1,12})?")


def split_procedure(text: str) -> tuple[str, dict[str, str]]:
    """A procedure as it is asked for, and the conditions that this states.

    | text | asks for |
    |---|---|
    | ``launch:Coppicer``, ``launch:Coppicer:first-after-boot`` | a launch, else warm |
    | ``ramp:Wayfarrow``, ``ramp:Coppicer:text,sheet`` | a ramp, of what its steps open in turns |
    | ``response:Terminal`` | how soon keys show in an application |
    | ``least-memory``, ``least-memory:64-256/16:5`` | sizes in MiB, boots the answer stands |
    | ``least-memory:512,1024:3:Wayfarrow:4`` | the least with which so many pages are carried |
    | ``command:own.s.low.Sort_seeds:0.01`` | a measure of the tester's own, and its steps |

    Raises
    ------
    BadInputError
        If a launch names no application, or another procedure names one; if sizes are none.
    """
    procedure, mark, stated = text.partition(":")
    if procedure in PROCEDURES and PROCEDURES[procedure].varies_memory:
        return procedure, _search(stated)
    if procedure in PROCEDURES and PROCEDURES[procedure].names_measure:
        return procedure, _own(stated)
    application, _, rest = (part.strip() for part in stated.partition(":"))
    is_named = procedure in PROCEDURES and PROCEDURES[procedure].names_application
    if is_named != bool(mark) or (mark and not application):
        raise BadInputError(
            f"a launch, ramp, response or frames names its application, as launch:NAME; not {text}"
        )
    if not mark:
        return procedure, {}
    if PROCEDURES[procedure].has_start:
        return procedure, {"app": application, "start": rest or WARM}
    if rest and procedure != "ramp":
        raise BadInputError(f"a {procedure} is asked for by its application alone; not {text}")
    opens = {"opens": ", ".join(word.strip() for word in rest.split(","))} if rest else {}
    return procedure, {"app": application, **opens}


def _own(stated: str) -> dict[str, str]:
    key, _, step = (part.strip() for part in stated.partition(":"))
    if not is_defined(key):
        raise BadInputError(
            "a command names the measure that it gives, as command:own.s.low.NAME; "
            f"not {stated or 'nothing'}"
        )
    if step and not _STEP.fullmatch(step):
        raise BadInputError(f"the steps of a measure are a number in its unit, not {step}")
    return {MEASURE: key, MEASURE_STEP: step} if step else {MEASURE: key}


def _search(stated: str) -> dict[str, str]:
    sizes, boots, application, pages = (
        part.strip() for part in [*stated.split(":"), *4 * [""]][:4]
    )
    found = {
        "memory_steps": sizes_text(parse_sizes(sizes)),
        "boots_each": str(parse_boots(boots)),
    }
    if not application:
        return found
    return {**found, "app": application, "pages_open": str(parse_pages(pages))}
