"""What one run does: a record for each procedure, read by everyone who has to know it.

A new procedure is a record here, a collector in the probe (which keeps the closed set of options
that it takes, in ``haremile_probe/jobs.py``) and its words.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from haremile.errors import BadInputError


@dataclass(frozen=True)
class Procedure:
    """One thing that a run can do.

    Attributes
    ----------
    key : str
        Stable name, such as ``boot``.
    label : str
        Shown name.
    runs : str
        What several runs of it are called.
    headline : str
        The metric that stands for a run of it where one has to; empty where it is asked for with it
        (`headline_of`).
    limit_s : float
        How long a run may take, unless an install's recipe states another `limit_s`.
    nominal_s : float
        How long a simulated run of it takes, where its truth does not say.
    restarts : bool
        Whether the machine boots anew for it.
    names_application : bool
        Whether it is asked for with the name of an application.
    has_start : bool
        Whether it is asked for with a start condition, too.
    varies_memory : bool
        Whether it gives the machine other memory from boot to boot, as only a virtual one allows;
        it may be asked for with the sizes.
    names_measure : bool
        Whether it is asked for with the key of a measure of the tester's own, which it gives.
    by_person_alone : bool
        Whether a person alone can do it.
    ready : str
        What a person who does it by hand has ready; empty where nobody can.
    """

    key: str
    label: str
    runs: str
    headline: str
    limit_s: float
    nominal_s: float
    restarts: bool = False
    names_application: bool = False
    has_start: bool = False
    varies_memory: bool = False
    names_measure: bool = False
    by_person_alone: bool = False
    ready: str = ""

    @property
    def is_named(self) -> bool:
        """Whether it is asked for with the name of something."""
        return self.names_application or self.names_measure


COMMAND = "command"
"""What gives a measure of the tester's own."""

PROCEDURES: dict[str, Procedure] = {
    one.key: one
    for one in (
        Procedure(
            "boot",
            "Boot",
            "boots",
            "boot.total",
            900.0,
            60.0,
            restarts=True,
            ready="the machine switched off with its stick or disk in, your finger on its switch",
        ),
        Procedure(
            "idle",
            "Idle",
            "runs",
            "memory.used",
            1500.0,
            90.0,
            ready="the machine started and left alone until it rests, and a terminal to read from",
        ),
        Procedure(
            "footprint",
            "Footprint",
            "runs",
            "disk.used",
            3600.0,
            20.0,
            ready="the machine started, and a terminal to read from",
        ),
        Procedure(
            "launch",
            "Launch",
            "launches",
            "launch.settled",
            900.0,
            8.0,
            names_application=True,
            has_start=True,
            ready="the machine at rest at its desktop, the application not open",
        ),
        Procedure(
            "ramp",
            "Load ramp",
            "ramps",
            "ramp.steps",
            3600.0,
            120.0,
            names_application=True,
            ready="the machine at rest at its desktop, and the pages that are to be opened",
        ),
        Procedure(
            "least-memory",
            "Least memory",
            "searches",
            "least.memory",
            4 * 3600.0,
            300.0,
            restarts=True,
            varies_memory=True,
        ),
        Procedure(
            "response",
            "Response",
            "runs",
            "response.rest",
            1800.0,
            90.0,
            names_application=True,
            ready="the machine at rest at its desktop, a field in which text can be typed",
        ),
        Procedure(
            "frames",
            "Frames",
            "runs",
            "frame.dropped",
            1800.0,
            60.0,
            names_application=True,
            ready="the machine at rest at its desktop, and what tells you its frames",
        ),
        Procedure(
            "power",
            "Battery",
            "runs",
            "power.idle",
            12 * 3600.0,
            1800.0,
            ready="the machine on its battery, full, its screen as bright as the plan says",
        ),
        Procedure(
            "sleep",
            "Sleep",
            "runs",
            "sleep.wake",
            1800.0,
            60.0,
            ready="the machine at rest at its desktop, and a way to put it to sleep and wake it",
        ),
        Procedure(
            "rate",
            "Rates",
            "runs",
            "rate.cpu_one",
            3600.0,
            60.0,
            ready="the machine started and at rest, and what tells you its rates",
        ),
        Procedure(
            COMMAND,
            "Own measure",
            "runs",
            "",
            3600.0,
            30.0,
            names_measure=True,
            ready="what your measure is read from",
        ),
        Procedure(
            "install",
            "Installing",
            "installs",
            "install.total",
            12 * 3600.0,
            1200.0,
            by_person_alone=True,
            ready="the machine switched off, the medium in, its disk free to be written over",
        ),
    )
}
"""What rigs can be asked for, in the order in which it is done within a block."""

BY_A_PERSON = frozenset(key for key, one in PROCEDURES.items() if not one.varies_memory)
"""What a person can do by hand."""

ON_ANY_MACHINE = frozenset(key for key in BY_A_PERSON if not PROCEDURES[key].by_person_alone)
"""What also a machine can be asked for that is no virtual one."""

BY_A_RIG = frozenset(key for key, one in PROCEDURES.items() if not one.by_person_alone)
"""What needs no person."""

MEASURE = "measure"
"""The condition that says which measure of the tester's own a run gives."""

MEASURE_STEP = "measure_step"
"""The condition that says in which steps it tells, in its unit."""

RUNS = "runs"
"""What runs are called whose procedure is none of these: readings brought in a file."""


def procedure_of(key: str) -> Procedure:
    """The record of a procedure. Raises BadInputError for an unknown one."""
    try:
        return PROCEDURES[key]
    except KeyError:
        known = ", ".join(PROCEDURES)
        raise BadInputError(f"unknown procedure: {key}; expected one of {known}") from None


def headline_of(key: str, conditions: Mapping[str, str]) -> str:
    """The metric that stands for a run of a procedure under these conditions."""
    known = procedure_of(key)
    return conditions[MEASURE] if known.names_measure else known.headline


def runs_of(key: str) -> str:
    """What runs of a procedure are called."""
    return PROCEDURES[key].runs if key in PROCEDURES else RUNS
