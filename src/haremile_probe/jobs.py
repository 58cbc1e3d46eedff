"""What a server may ask the probe for: a procedure, options of closed sets, and names. No command.

The same check stands on both sides: the server does not ask for anything else, and the probe does
nothing else, whatever the server says.
"""

import re
import shlex
from types import MappingProxyType
from typing import Any, Callable, Dict, List, Mapping, NamedTuple, Optional

from haremile_probe.load.kinds import parse_mix

OF_AN_APPLICATION = ("launch", "ramp", "response", "frames")
"""What is asked for with the name of an application."""

COMMAND = "command"
BY_NAME = (*OF_AN_APPLICATION, COMMAND)
"""What is asked for with a name, for which the machine or its recipe has a command."""

DESKTOP_QUIET_S = 5.0
"""For so long nothing may change on the screen of a desktop that has settled."""

STARTS = ("first-ever", "first-after-boot", "cache-dropped", "warm")
WARM = "warm"
WAYS = MappingProxyType(
    {"x": "probe", "wayland": "wayland", "accessibility": "accessibility", "outside": "screen"}
)
"""What the windows of a launch can be seen by, and the method of its readings then."""

MOST_NAME = 100
NAME = re.compile(r"^[^\x00-\x1f\x7f]{1,%d}$" % MOST_NAME)
ENTRY = re.compile(r"^[A-Za-z0-9][A-Za-z0-9 ._+(),>-]{0,99}$")
"""What a boot entry may be called; none begins with a dash, as an option does."""


class JobError(ValueError):
    """Something is asked for that is not in the closed sets; the message says what."""


NO_OPTIONS: Mapping[str, str] = MappingProxyType({})


class Job(NamedTuple):
    """What is asked for; `app` is the name of an application or of a measure of the tester's own,
    `start` is of a launch only."""

    procedure: str
    options: Mapping[str, str] = NO_OPTIONS
    app: Optional[str] = None
    start: Optional[str] = None


def _seconds(text: str) -> bool:
    return bool(re.match(r"^[0-9]{1,5}(\.[0-9]{1,3})?$", text)) and 0.0 < float(text) <= 36000.0


def _pixels(text: str) -> bool:
    return bool(re.match(r"^[0-9]{1,7}$", text))


def _instants(text: str) -> bool:
    return text == "none" or all(_seconds(word) for word in text.split(",")[:20])


def _user(text: str) -> bool:
    return bool(re.match(r"^[a-z_][a-z0-9_-]{0,31}$", text))


def _way(text: str) -> bool:
    return text in WAYS


def _name(text: str) -> bool:
    return bool(NAME.match(text)) and not text.startswith("-")


def _mix(text: str) -> bool:
    try:
        return bool(parse_mix(text))
    except ValueError:
        return False


def _none(text: str) -> bool:
    return text == ""


def _steps(text: str) -> bool:
    return bool(re.match(r"^[0-9]{1,3}$", text)) and 0 < int(text) <= 200


def _mib(text: str) -> bool:
    return bool(re.match(r"^[0-9]{1,7}$", text)) and int(text) > 0


def _keys(text: str) -> bool:
    return bool(re.match(r"^[0-9]{2,3}$", text)) and 10 <= int(text) <= 500


def _pressed(text: str) -> bool:
    return text in ("letter", "arrow")


def _processes(text: str) -> bool:
    return bool(re.match(r"^[0-9]{1,3}$", text)) and int(text) <= 256


def _through(text: str) -> bool:
    return text in ("kernel", "login-service")


def _asleep(text: str) -> bool:
    return bool(re.match(r"^[0-9]{2,3}$", text)) and 10 <= int(text) <= 600


def _use(text: str) -> bool:
    return text in ("idle", "pages", "clip")


def _least(text: str) -> bool:
    return _seconds(text) and float(text) <= 600.0


def _percent(text: str) -> bool:
    return bool(re.match(r"^[0-9]{1,3}$", text)) and 0 < int(text) <= 100


def _own(text: str) -> bool:
    return bool(re.match(r"^own\.°?[^\W\d_]{1,12}\.(low|high|none)\.\w{1,80}$", text))


def _step(text: str) -> bool:
    return bool(re.match(r"^[0-9]{1,12}(\.[0-9]{1,12})?$", text)) and float(text) > 0.0


def _unit(text: str) -> bool:
    return text in ("B/s", "1/s", "1") or bool(re.match(r"^°?[^\W\d_]{1,12}$", text))


class Measure(NamedTuple):
    """What the probe can be asked for: what it tells, in words, and what it can be told, with what
    each option may be (empty for a plain switch)."""

    says: str
    options: Mapping[str, Callable[[str], bool]]


MEASURES: Dict[str, Measure] = {
    "boot": Measure(
        "this boot's parts from every record that is present",
        {
            "until-settled": _none,
            "quiet-window": _seconds,
            "limit": _seconds,
            "task": _name,
            "user": _user,
        },
    ),
    "idle": Measure(
        "memory once it has settled, under every definition",
        {"window": _seconds, "limit": _seconds, "instants": _instants},
    ),
    "footprint": Measure(
        "space used and packages installed", {"no-walk": _none, "no-updates": _none}
    ),
    "launch": Measure(
        "how long an application takes to its window and to rest",
        {
            "by": _way,
            "quiet-window": _seconds,
            "small-area": _pixels,
            "limit": _seconds,
            "quiet-limit": _seconds,
            "user": _user,
        },
    ),
    "ramp": Measure(
        "how many pages an application carries, and what each takes, until a stated rule ends it",
        {
            "steps": _steps,
            "mix": _mix,
            "limit": _seconds,
            "silence": _seconds,
            "delay": _seconds,
            "settle": _seconds,
            "floor": _mib,
            "swap-growth": _mib,
            "limit-memory": _mib,
            "pressure": _percent,
            "user": _user,
        },
    ),
    "response": Measure(
        "how soon a key that is sent to an application shows, at rest and beside other work",
        {"keys": _keys, "press": _pressed, "busy": _processes, "limit": _seconds, "user": _user},
    ),
    "frames": Measure(
        "how many pictures of a clip and an animation a browser shows and drops, or an "
        "application’s own window",
        {"seconds": _seconds, "limit": _seconds, "window": _none, "user": _user},
    ),
    "power": Measure(
        "how long the battery lasts in a stated use, and what else goes on meanwhile",
        {"use": _use, "seconds": _seconds, "every": _seconds, "task": _name, "user": _user},
    ),
    "sleep": Measure(
        "how long the machine takes to fall asleep and to wake by its clock",
        {"seconds": _asleep, "through": _through, "task": _name, "user": _user},
    ),
    "rate": Measure(
        "how fast processor, memory and storage do fixed work",
        {"least": _least, "memory": _mib, "file": _mib, "no-storage": _none},
    ),
    COMMAND: Measure(
        "a measure of the tester's own, by a command that prints it",
        {"measure": _own, "unit": _unit, "resolution": _step, "limit": _seconds, "user": _user},
    ),
}
"""Each is taken by the module of its name in ``verbs``, and told by that in ``interpret``."""

OPTIONS = {name: measure.options for name, measure in MEASURES.items()}


def checked_job(job: Job) -> Job:
    """The job, if all of it lies in the closed sets. Raises JobError."""
    if job.procedure not in OPTIONS:
        raise JobError("the probe does %s, not %s" % (", ".join(OPTIONS), job.procedure[:40]))
    known = OPTIONS[job.procedure]
    for name, text in job.options.items():
        if name not in known:
            able = ", ".join(known)
            raise JobError("%s knows %s, not %s" % (job.procedure, able, name[:40]))
        if not known[name](text):
            raise JobError("%s cannot be %s" % (name, text[:40] or "empty"))
    if job.procedure not in BY_NAME:
        if job.app is not None or job.start is not None:
            raise JobError(
                "only %s name an application, only launches a start" % ", ".join(OF_AN_APPLICATION)
            )
        return job
    if job.app is None or not NAME.match(job.app):
        what = "measure" if job.procedure == COMMAND else "application"
        raise JobError(
            "a %s names its %s, in at most %d characters" % (job.procedure, what, MOST_NAME)
        )
    if job.procedure == "launch":
        _check_start(job)
    elif job.start is not None:
        raise JobError("only launches name a start")
    return job


def _check_start(job: Job) -> None:
    if job.start not in STARTS:
        raise JobError("a start is one of %s, not %s" % (", ".join(STARTS), str(job.start)[:40]))


def parse_options(procedure: str, text: str) -> Dict[str, str]:
    """Options as an install's recipe writes them: ``--window 10 --no-walk``. Raises JobError."""
    try:
        words = shlex.split(text)
    except ValueError as error:
        raise JobError("%s: %s" % (text[:80], error)) from None
    found: Dict[str, str] = {}
    known = OPTIONS.get(procedure, {})
    while words:
        word = words.pop(0)
        name = word[2:]
        if not word.startswith("--") or name not in known or name in found:
            raise JobError("%s cannot be told %s" % (procedure, word[:40]))
        found[name] = "" if known[name] is _none else (words.pop(0) if words else "")
    return checked_options(procedure, found)


def checked_options(procedure: str, options: Dict[str, str]) -> Dict[str, str]:
    """The options, if they are of this procedure's closed set. Raises JobError."""
    app = "x" if procedure in BY_NAME else None
    start = STARTS[0] if procedure == "launch" else None
    return dict(checked_job(Job(procedure, options, app, start)).options)


def words_of(
    job: Job,
    command: Optional[List[str]] = None,
    others: Mapping[str, str] = NO_OPTIONS,
) -> List[str]:
    """The probe's own arguments for a job that was checked; `command` is what its application
    stands for, `others` what other applications do, as only this machine or the owner of its recipe
    says."""
    words = [job.procedure]
    for name, text in sorted(job.options.items()):
        words += ["--" + name] if OPTIONS[job.procedure][name] is _none else ["--" + name, text]
    if job.procedure == "launch":
        words += ["--repeats", "1", "--start", str(job.start)]
    for name, text in sorted(others.items()):
        words += ["--app", "%s=%s" % (name, text)]
    if job.procedure in BY_NAME:
        words += ["--", *(command or [])]
    return words


def dump_job(job: Job) -> Dict[str, Any]:
    """A job as it goes over the wire."""
    return {**job._asdict(), "options": dict(job.options)}


def load_job(document: Any) -> Job:
    """A job as it came over the wire, checked. Raises JobError."""
    if not isinstance(document, dict) or set(document) - set(Job._fields):
        raise JobError("this is no job: %s" % repr(document)[:80])
    options = document.get("options") or {}
    texts = [document.get("procedure"), *(document.get(key) or "" for key in ("app", "start"))]
    if not isinstance(options, dict) or not all(
        isinstance(text, str) for text in [*texts, *options, *options.values()]
    ):
        raise JobError("this is no job: %s" % repr(document)[:80])
    made = Job(str(texts[0]), dict(options), document.get("app"), document.get("start"))
    return checked_job(made)
