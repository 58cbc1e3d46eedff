"""What a comparison is made from, and what it gives."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from haremile.core.comparison.comparability import Difference
from haremile.core.comparison.machines import MachinesContrast
from haremile.core.comparison.reliability import Reliability
from haremile.core.comparison.verdict import PairVerdict, Verdict
from haremile.core.records.conditions import ConditionBreak, Conditions
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.study import RunState
from haremile.core.records.units import Scale
from haremile.core.statistics.lane_statistics import LaneSummary


def facet_of(conditions: Conditions) -> str:
    """What sets readings of one metric apart as answers to different questions, in words.

    The application that was launched or loaded, how many pages were open in it, and the instant
    since boot at which memory was to be read (of the settled machine it is another question); ""
    where none is stated.
    """
    rule, opened = conditions.get("settle_rule", ""), conditions.get("pages_open", "none")
    parts = [
        conditions.get("app", ""),
        "" if opened == "none" else f"open: {opened}",
        rule if rule.startswith("at ") else "",
    ]
    return ", ".join(part for part in parts if part)


def row_key(metric: str, machine: str, method: str, conditions: Conditions) -> str:
    """The row of the verdict sheet that a reading belongs to.

    Only what shares one is ever compared: one metric, method and machine, cold apart from warm, and
    each application for itself.
    """
    parts = [metric, machine, method, conditions.get("start", "")]
    return "|".join([*parts, *filter(None, [facet_of(conditions)])])


@dataclass(frozen=True)
class Observation:
    """One reading with what decides where it counts; `value` in the canonical unit.

    `absolute_error` is the half-width, at 95 %, of what all readings of one person share: it widens
    absolute values and cancels between lanes.
    """

    lane_no: int
    machine: str
    metric: str
    method: str
    value: float
    conditions: Conditions
    procedure: str
    is_set_aside: bool = False
    resolution: float | None = None
    block: int | None = None
    is_corrected: bool = False
    absolute_error: float = 0.0

    @property
    def row_key(self) -> str:
        """The row that it belongs to."""
        return row_key(self.metric, self.machine, self.method, self.conditions)


@dataclass(frozen=True)
class RunOutcome:
    """One planned run and how it stands.

    `reason` is of one that failed; `timed_out` tells of it that it was slower than its time limit;
    `start` and `app` are conditions under which it was made, "" where none is stated. `host_shares`
    are shares of its time by which it is told that the host had other work, as far as known.
    """

    lane_no: int
    machine: str
    procedure: str
    state: RunState
    block: int | None = None
    timed_out: bool = False
    start: str = ""
    app: str = ""
    reason: str = ""
    host_shares: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Incidents:
    """Failures and stalls of one lane, said beside any praise."""

    lane_no: int
    failed: int
    stalled: int
    runs: int


@dataclass(frozen=True)
class Early:
    """No verdict is read yet: `done` of `runs` are in; `first_look` is the block after which one
    will be, None where that is the end."""

    done: int
    runs: int
    first_look: int | None


@dataclass(frozen=True)
class LaneFinding:
    """One contender's lane in a row; `summary` is None where no reading counts.

    A first reading that lies above the rest is `slow_first`, and none of the `stalled`: it is what
    a change before it costs once. `far_first` is one that lies as far off as a stall. `runs` are
    those that are finished; `breaks` are conditions that changed on the way; `corrected` counts the
    readings whose value a person changed.
    """

    lane_no: int
    summary: LaneSummary | None
    failed: int
    stalled: int
    slow_first: bool
    set_aside: int
    runs: int = 0
    breaks: tuple[ConditionBreak, ...] = ()
    far_first: bool = False
    corrected: int = 0


@dataclass(frozen=True)
class PairFinding:
    """Lane `b` against lane `a`, with its sentence."""

    a: int
    b: int
    found: PairVerdict
    verdict_text: str = ""
    sentence: str = ""


@dataclass(frozen=True)
class FindingRow:
    """One line of the verdict sheet.

    Attributes
    ----------
    key : str
        As `row_key` makes it.
    family : int
        Pairs over which the error was shared out.
    pairs : tuple of PairFinding
        Both directions of every pair, so that any lane may serve as the baseline.
    first_group : tuple of lane numbers
        Those between which the first place lies.
    is_shared : bool
        Whether these are several, all level with one another, and not all there are.
    early : Early or None
        Why no verdict is read yet, if so.
    block_share : float or None
        Where lanes were compared within blocks: how much of the noise lies between these.
    swapped : mapping of lane number to what it has in swap beside this memory, bytes
    label, margin_text, verdict_text, headline, sentence : str
        Empty until `wording.findings.in_words` writes them.
    """

    key: str
    metric: str
    unit: str
    good_end: GoodEnd
    method: str
    machine: str
    start: str | None
    facet: str
    procedure: str
    scale: Scale
    margin: Margin
    family: int
    lanes: tuple[LaneFinding, ...]
    pairs: tuple[PairFinding, ...]
    verdict: Verdict
    leader: int | None
    fair_start: tuple[Difference, ...]
    first_group: tuple[int, ...] = ()
    is_shared: bool = False
    early: Early | None = None
    switching: frozenset[str | None] = frozenset()
    is_in_a_row: bool = False
    block_share: float | None = None
    boots_each: frozenset[str] = frozenset()
    swapped: Mapping[int, float] = field(default_factory=dict)
    scope: str = "these installs"
    label: str = ""
    margin_text: str = ""
    verdict_text: str = ""
    headline: str = ""
    sentence: str = ""


@dataclass(frozen=True)
class Failure:
    """So many runs of a lane failed for one reason."""

    lane_no: int
    reason: str
    runs: int


@dataclass(frozen=True)
class ReliabilityRow:
    """Failures and stalls of one procedure on one machine."""

    procedure: str
    machine: str
    verdict: Verdict
    lanes: tuple[Incidents, ...]
    reasons: tuple[Failure, ...]
    found: Reliability
    verdict_text: str = ""
    sentence: str = ""


@dataclass(frozen=True)
class PairOverMachines:
    """Entrant `b` against entrant `a`, each by its name."""

    a: str
    b: str
    found: MachinesContrast
    sentence: str = ""


@dataclass(frozen=True)
class MachineLeader:
    """Who is ahead on a machine; None where nobody is."""

    machine: str
    leader: str | None


@dataclass(frozen=True)
class MachinesRow:
    """One measure over all machines on which it may be compared.

    `pairs` holds both directions of every pair that was measured on two machines at least.
    """

    key: str
    metric: str
    method: str
    start: str | None
    facet: str
    good_end: GoodEnd
    leaders: tuple[MachineLeader, ...]
    pairs: tuple[PairOverMachines, ...]
    label: str = ""
    headline: str = ""
    sentence: str = ""


@dataclass(frozen=True)
class Findings:
    """All that a study says so far.

    `most_error` is what all looks together may spend, as a share of the stated error;
    `expected_false` says how many verdicts the sheet holds and how many false ones to expect, once
    `wording.findings.in_words` wrote it.
    """

    rows: tuple[FindingRow, ...]
    reliability: tuple[ReliabilityRow, ...]
    machines: tuple[MachinesRow, ...]
    is_complete: bool
    most_error: float = 1.0
    expected_false: str = ""


@dataclass(frozen=True)
class Plan:
    """What was stated beforehand.

    Attributes
    ----------
    margins : mapping of metric key to the stated margin
        The catalogue's stands in where a plan states none.
    interim_looks : InterimLooks or None
        When verdicts are read; None is once, when every run is finished.
    overrides : mapping of condition key to the reason why its difference is accepted
    is_in_a_row : bool
        Whether each contender's runs follow one another, unshuffled.
    """

    margins: Mapping[str, Margin] = field(default_factory=dict)
    interim_looks: InterimLooks | None = None
    overrides: Mapping[str, str] = field(default_factory=dict)
    is_in_a_row: bool = False
