"""The metric catalogue: what can be measured, in which unit, and which end is good."""

import re
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from haremile.core.records.margin import Margin
from haremile.core.records.units import MIB, to_canonical
from haremile.errors import BadInputError, UnknownMetricError


class GoodEnd(StrEnum):
    """Which end of the axis carries the pennant."""

    LOW = "low"
    HIGH = "high"
    NONE = "none"


class Kind(StrEnum):
    """How a metric comes about: sampled (varies), counted (exact for an install), own."""

    SAMPLED = "sampled"
    COUNTED = "counted"
    OWN = "own"


METHODS = (
    "systemd",
    "firmware-table",
    "efi",
    "kernel-log",
    "session-start",
    "host-marker",
    "serial",
    "port",
    "screen",
    "probe",
    "statvfs",
    "walk",
    "package-db",
    "hand",
    "recording",
    "typed",
    "counted-clock",
    "wayland",
    "accessibility",
    "scope",
    "command",
    "native",
    "native-pinned",
    "present",
    "login-service",
)

OWN = "own."
OWN_TIME = "own.time"
OWN_UNITS = {"s": "s", "B": "B", "Bps": "B/s", "ps": "1/s", "n": "1", "share": "share"}
"""How the key of a measure of the tester's own states its unit; any other word is a unit that is
not converted."""
OWN_WORD = re.compile(r"°?[^\W\d_]{1,12}")
_DEFINED = re.compile(rf"own\.({OWN_WORD.pattern})\.(low|high|none)\.(\w{{1,80}})")

BY_HAND = ("hand", "recording", "typed")
"""Methods by which a person gives a reading."""


@dataclass(frozen=True)
class Metric:
    """One thing that can be measured.

    Attributes
    ----------
    key : str
        Stable name, such as ``boot.total``.
    label : str
        Shown name.
    unit : str
        Canonical unit of every reading.
    good_end : GoodEnd
    kind : Kind
    margin : Margin
        The margin that matters where a plan states none.
    procedures : tuple of str
        The procedures whose runs give it; `assumed_procedure` where a file does not say which.
    """

    key: str
    label: str
    unit: str
    good_end: GoodEnd
    kind: Kind
    margin: Margin
    procedures: tuple[str, ...]

    @property
    def is_exact(self) -> bool:
        """Whether a whole number of it is just that number, and no rounded one."""
        return self.unit == "1" and self.kind is not Kind.OWN


def sure_procedures(keys: Iterable[str]) -> frozenset[str]:
    """Procedures that some of these metrics can come from alone."""
    return frozenset(
        known.procedures[0] for known in map(metric, set(keys)) if len(known.procedures) == 1
    )


def assumed_procedure(key: str, sure: Collection[str]) -> str:
    """The procedure that gave a reading where nothing says which: memory alone is of idle runs, and
    of boots where something else was read of boots.

    Parameters
    ----------
    key : str
        The reading's metric.
    sure : collection of str
        As `sure_procedures` of everything that was read together.

    Raises
    ------
    UnknownMetricError
    """
    able = metric(key).procedures
    return next((one for one in able if one in sure), able[-1])


WEEK_S = 7 * 86400.0
MOST_MEMORY = 64 * 2.0**40
WITHIN_MEMORY = ("memory.used", "memory.used_nocache", "memory.pss")
"""These are parts of the machine's memory; resident sizes count what is shared several times."""


def check_possible(known: Metric, value: float, conditions: Mapping[str, str]) -> None:
    """Refuse what the metric, or the machine that it was measured on, cannot have given.

    Parameters
    ----------
    known : Metric
    value : float
        In the metric's canonical unit.
    conditions : mapping
        ``memory`` bounds parts of it, where the machine states it.

    Raises
    ------
    BadInputError
        With the value as it was understood, so that a wrong unit is seen.
    """
    most = {"s": WEEK_S, "share": 1.0}.get(known.unit)
    if known.key.startswith("memory."):
        most = MOST_MEMORY
    if most is not None and value > most:
        raise BadInputError(
            f"{value_text(value, known.unit)} of {known.label.lower()} cannot be; "
            "is the unit right?"
        )
    size = stated_size(conditions.get("memory", "")) if known.key in WITHIN_MEMORY else None
    if size is not None and value > size:
        raise BadInputError(
            f"{value_text(value, known.unit)} of {known.label.lower()} on a machine with "
            f"{value_text(size, 'B')} cannot be; is the unit right?"
        )


def stated_size(stated: str) -> float | None:
    """A machine's memory as it states it, bytes; None where that is no size."""
    number, _, unit = stated.partition(" ")
    try:
        return to_canonical(float(number), unit or "B")[0]
    except (ValueError, BadInputError):
        return None


def value_text(value: float, unit: str) -> str:
    """A value for a person, in a unit of handy size."""
    if unit == "1":
        return f"{value:,.15g}"
    if unit == "B":
        shown, unit = (value / 2**30, "GiB") if value >= 2**30 else (value / MIB, "MiB")
    else:
        shown, unit = (value * 100, "%") if unit == "share" else (value, unit)
    return f"{shown:,.0f} {unit}" if abs(shown) >= 1e4 else f"{shown:,.4g} {unit}"


def _time(key: str, label: str, procedure: str, amount: float = 0.5) -> Metric:
    margin = Margin(share=0.03, amount=amount)
    return Metric(key, label, "s", GoodEnd.LOW, Kind.SAMPLED, margin, (procedure,))


def _bytes(key: str, label: str, *procedures: str, amount: float = 15 * MIB) -> Metric:
    margin = Margin(amount=amount)
    return Metric(key, label, "B", GoodEnd.LOW, Kind.SAMPLED, margin, procedures)


def _count(key: str, label: str, *procedures: str, kind: Kind = Kind.SAMPLED) -> Metric:
    return Metric(key, label, "1", GoodEnd.NONE, kind, Margin(amount=3.0), procedures)


def _of_the_machine(key: str, label: str, unit: str, amount: float) -> Metric:
    """What is looked at beside every run: a curve, and no reading."""
    margin = Margin(amount=amount)
    return Metric(key, label, unit, GoodEnd.NONE, Kind.SAMPLED, margin, ("workload",))


def _rate(key: str, label: str, unit: str = "B/s") -> Metric:
    return Metric(key, label, unit, GoodEnd.HIGH, Kind.SAMPLED, Margin(share=0.05), ("rate",))


def _lasting(key: str, label: str) -> Metric:
    return Metric(key, label, "s", GoodEnd.HIGH, Kind.SAMPLED, Margin(share=0.05), ("power",))


def _share(key: str, label: str, procedure: str, amount: float = 0.02) -> Metric:
    margin = Margin(amount=amount)
    return Metric(key, label, "share", GoodEnd.LOW, Kind.SAMPLED, margin, (procedure,))


def _answers(key: str, when: str) -> list[Metric]:
    late = _share(f"response.{key}_late", f"Keys that showed nothing for 0.1 s, {when}", "response")
    return [
        _time(f"response.{key}", f"Key to picture, {when}", "response", amount=0.01),
        _time(f"response.{key}_p95", f"Key to picture, 19 of 20, {when}", "response", amount=0.02),
        late,
    ]


_ALL = (
    _time("boot.total", "Power-on to ready", "boot"),
    _time("boot.firmware", "Firmware", "boot"),
    _time("boot.loader", "Boot loader", "boot"),
    _time("boot.menu", "Boot menu", "boot"),
    _time("boot.kernel", "Kernel", "boot"),
    _time("boot.initrd", "Initial RAM disk", "boot"),
    _time("boot.userspace", "Userspace to ready", "boot"),
    _time("boot.after", "Last unit to ready", "boot"),
    _time("boot.login", "To login", "boot"),
    _time("boot.session", "Login to session", "boot"),
    _time("boot.desktop", "To settled desktop", "boot"),
    _time("boot.task", "To a first useful page", "boot"),
    _time("boot.shutdown", "Shutdown", "boot"),
    Metric(
        "boot.counted",
        "Work until ready",
        "counted_s",
        GoodEnd.LOW,
        Kind.SAMPLED,
        Margin(share=0.01),
        ("boot",),
    ),
    _bytes("memory.used", "Idle memory", "boot", "idle"),
    _bytes("memory.used_nocache", "Idle memory without caches", "boot", "idle"),
    _bytes("memory.pss", "Proportional memory of processes", "boot", "idle"),
    _bytes("memory.rss", "Resident memory of processes", "boot", "idle"),
    _bytes("memory.swap_used", "Swap in use", "boot", "idle"),
    _bytes("memory.swap_compressed", "Compressed swap in use", "boot", "idle"),
    _count("process.count", "Processes", "boot", "idle"),
    _count("thread.count", "Threads", "boot", "idle"),
    Metric(
        "cpu.busy",
        "Processor busy at idle",
        "share",
        GoodEnd.LOW,
        Kind.SAMPLED,
        Margin(amount=0.01),
        ("idle",),
    ),
    _bytes("disk.used", "Space used", "boot", "footprint", amount=100 * MIB),
    _bytes("disk.walked", "Space used by files", "footprint", amount=100 * MIB),
    Metric(
        "disk.image",
        "Image size",
        "B",
        GoodEnd.LOW,
        Kind.COUNTED,
        Margin(amount=50 * MIB),
        ("footprint",),
    ),
    _count("package.count", "Packages", "footprint", kind=Kind.COUNTED),
    _count("package.pending", "Updates pending", "footprint", kind=Kind.COUNTED),
    _bytes("package.download", "Updates to download", "footprint"),
    _time("install.total", "Installing", "install", amount=15.0),
    _time("install.copying", "Copying while installing", "install", amount=15.0),
    _time("install.updates", "Updating while installing", "install", amount=15.0),
    _time("install.configuring", "Configuring while installing", "install", amount=15.0),
    _time("install.desktop", "Adding a desktop", "install", amount=15.0),
    _time("install.upgrade", "Upgrading to another release", "install", amount=15.0),
    Metric(
        "wait.person",
        "Waited for the person",
        "s",
        GoodEnd.NONE,
        Kind.SAMPLED,
        Margin(amount=1.0),
        ("install", "boot"),
    ),
    _time("launch.window", "To the first window", "launch", amount=0.1),
    _time("launch.main", "To the main window", "launch", amount=0.1),
    _time("launch.paint", "To the first paint", "launch", amount=0.1),
    _time("launch.settled", "To a settled window", "launch", amount=0.1),
    _time("launch.login", "Login to settled window", "launch", amount=0.1),
    Metric(
        "least.memory",
        "Least memory to get ready (usability not measured)",
        "B",
        GoodEnd.LOW,
        Kind.COUNTED,
        Margin(amount=1 * MIB),
        ("least-memory",),
    ),
    Metric(
        "least.pages",
        "Least memory for so many pages",
        "B",
        GoodEnd.LOW,
        Kind.COUNTED,
        Margin(amount=1 * MIB),
        ("least-memory",),
    ),
    *_answers("rest", "at rest"),
    *_answers("busy", "beside other work"),
    Metric(
        "ramp.steps",
        "Pages or documents carried",
        "1",
        GoodEnd.HIGH,
        Kind.SAMPLED,
        Margin(amount=1.0),
        ("ramp",),
    ),
    _bytes("app.memory", "The application’s own memory", "ramp", "launch", amount=5 * MIB),
    _bytes("app.memory_peak", "The most the application ever used", "ramp", amount=5 * MIB),
    Metric(
        "app.memory_shared",
        "Of its memory, shared with others",
        "B",
        GoodEnd.NONE,
        Kind.SAMPLED,
        Margin(amount=5 * MIB),
        ("ramp",),
    ),
    _bytes("ramp.base", "Memory with the application and nothing open", "ramp"),
    _bytes("ramp.memory", "Memory for each page or document", "ramp", amount=3 * MIB),
    _bytes(
        "ramp.tree",
        "Of that, the application’s own",
        "ramp",
        amount=3 * MIB,
    ),
    _time("ramp.window", "To a page’s or document’s picture", "ramp", amount=0.5),
    _time("ramp.delay", "Delay of the pages at the last one carried", "ramp", amount=0.5),
    Metric(
        "ramp.swap_at",
        "Page at which swap began",
        "1",
        GoodEnd.HIGH,
        Kind.SAMPLED,
        Margin(amount=1.0),
        ("ramp",),
    ),
    _share("frame.dropped", "Pictures of a clip that were dropped", "frames"),
    _share("frame.dropped_start", "Pictures dropped as the clip began", "frames", 0.05),
    _share("frame.missed", "Pictures missed, of an animation or a window", "frames"),
    Metric(
        "frame.rate",
        "Pictures a second, of an animation or a window",
        "1/s",
        GoodEnd.HIGH,
        Kind.SAMPLED,
        Margin(amount=2.0),
        ("frames",),
    ),
    _of_the_machine("machine.temperature", "Hottest part of the machine", "°C", 3.0),
    _of_the_machine("machine.frequency", "Frequency of the processors", "Hz", 1e8),
    _of_the_machine("machine.throttled", "Times that a processor was throttled", "1", 1.0),
    _lasting("power.idle", "Battery lasts, idle with its screen on"),
    _lasting("power.pages", "Battery lasts, turning pages"),
    _lasting("power.clip", "Battery lasts, playing a clip"),
    Metric(
        "power.wear",
        "Battery lost since it was new",
        "share",
        GoodEnd.NONE,
        Kind.SAMPLED,
        Margin(amount=0.02),
        ("power",),
    ),
    _share("power.fan", "Share of the time that a fan turns", "power", 0.05),
    Metric(
        "power.storage",
        "Read from and written to storage meanwhile",
        "B/s",
        GoodEnd.LOW,
        Kind.SAMPLED,
        Margin(amount=32 * 1024.0),
        ("power",),
    ),
    _time("sleep.enter", "To fall asleep", "sleep"),
    _time("sleep.wake", "To wake", "sleep"),
    _time("sleep.session", "To wake, until the session is told", "sleep"),
    _time("sleep.task", "To wake, until a page answers", "sleep"),
    _share("sleep.drain", "Of the battery, for a day of sleep", "sleep"),
    _rate("rate.cpu_one", "Processor, whole numbers, one thread", "1/s"),
    _rate("rate.float_one", "Processor, fractions, one thread", "1/s"),
    _rate("rate.cpu_all", "Processor, whole numbers, all threads", "1/s"),
    _rate("rate.float_all", "Processor, fractions, all threads", "1/s"),
    _rate("rate.handover", "Hand-overs between two threads", "1/s"),
    _rate("rate.mem_read", "Memory, reading"),
    _rate("rate.mem_write", "Memory, writing"),
    _rate("rate.mem_copy", "Memory, copying"),
    _rate("rate.disk_write", "Storage, writing in sequence"),
    _rate("rate.disk_seq", "Storage, reading in sequence"),
    _rate("rate.disk_rand", "Storage, reads at random", "1/s"),
    _rate("rate.disk_sync", "Storage, writes that are waited for", "1/s"),
)

CATALOGUE: dict[str, Metric] = {metric.key: metric for metric in _ALL}
_ORDER = {key: index for index, key in enumerate(CATALOGUE)}


def metric(key: str) -> Metric:
    """Look a metric up.

    Keys under ``own.`` are the tester's. Those of a defined one state unit, good end and name
    (`own_measure`); those under ``own.time.`` are times to a mark of theirs; of others nothing is
    known but the name.

    Raises
    ------
    UnknownMetricError
        If the key is in no catalogue; the message lists what is.
    """
    if key in CATALOGUE:
        return CATALOGUE[key]
    defined = _DEFINED.fullmatch(key)
    if defined is not None:
        word, end, name = defined.groups()
        unit = OWN_UNITS.get(word, word)
        return Metric(key, _own_label(name), unit, GoodEnd(end), Kind.OWN, Margin(), ("command",))
    if key.startswith(OWN) and len(key) > len(OWN):
        is_time = key.startswith(f"{OWN_TIME}.")
        label = _own_label(key.removeprefix(f"{OWN_TIME}." if is_time else OWN))
        if is_time:
            return replace(_time(key, label, "workload"), kind=Kind.OWN)
        return Metric(key, label, "1", GoodEnd.NONE, Kind.OWN, Margin(), ("workload",))
    raise UnknownMetricError(key, list(CATALOGUE))


def _own_label(name: str) -> str:
    label = name.replace("_", " ")
    return label[:1].upper() + label[1:]


def own_measure(name: str, unit: str, good_end: GoodEnd) -> str:
    """The key of a measure that a tester defines: it states what every reader of its readings has
    to know, so that they are understood wherever they are taken.

    Parameters
    ----------
    name : str
        As it is shown.
    unit : str
        One of those of `OWN_UNITS`, or a word of letters such as ``W``, which is not converted.
    good_end : GoodEnd

    Raises
    ------
    BadInputError
        For a name without a letter or a digit, one too long, or a unit that is no word.
    """
    words = {unit: word for word, unit in OWN_UNITS.items()}
    word = words.get(unit, unit)
    if OWN_WORD.fullmatch(word) is None or (word in OWN_UNITS and unit not in words):
        known = ", ".join(words)
        raise BadInputError(
            f"a unit is {known}, or a word of at most 12 letters, not {unit[:40] or 'empty'}"
        )
    slug = _slug(name)
    if not slug.strip("_") or len(slug) > 80:
        raise BadInputError(
            "a measure of your own has a name of 1 to 80 letters or digits and spaces"
        )
    return f"{OWN}{word}.{good_end}.{slug}"


def is_defined(key: str) -> bool:
    """Whether a key is one of `own_measure`."""
    return _DEFINED.fullmatch(key) is not None


def is_undefined(key: str) -> bool:
    """Whether a key is of a measure of the tester's own of which nothing but the name is known."""
    return key.startswith(OWN) and not is_defined(key)


def own_name(key: str) -> str:
    """By which name installs and machines know the command of a defined measure."""
    return key.rpartition(".")[2]


def _slug(name: str) -> str:
    return "_".join(re.findall(r"\w+", name))


def own_time(name: str) -> str:
    """The metric of the time to a mark that a tester named. Raises BadInputError without a name."""
    slug = _slug(name)
    if not slug.strip("_"):
        raise BadInputError("a mark of your own has a name, with a letter or a digit in it")
    return f"{OWN_TIME}.{slug}"


def sheet_position(key: str) -> int:
    """Where a metric stands in a sheet that lists several."""
    return _ORDER.get(key, len(_ORDER))
