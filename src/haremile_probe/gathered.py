"""The file that ``haremile-gather.sh`` writes: framed records, the first named ``gather``.

Its lines ``KEY=VALUE`` state id, made_at, asked, machine and version; records named ``fault`` hold
lines ``KIND WHAT``; all others are the texts that the probe would have read itself.
"""

from typing import List, Optional

from haremile_probe.interpret import account_of, capture_of
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.key_values import parse_environment, parse_os_release
from haremile_probe.wire import FAULT_KINDS, Capture, Fault, Record, RecordReader, WireError

FIRST = "HM1 gather "
GATHERED = ("about", "boot", "idle", "footprint")
STATED = ("id", "made_at", "asked", "machine", "version")


def parse_gathered(text: str) -> List[Capture]:
    """Make captures of a gathered file, one for each procedure it holds.

    Raises WireError that names the fault: another form, a record cut short, an unknown procedure.
    """
    records = _records(text)
    if not records or records[0].name != "gather":
        raise WireError("not a gathered file: it does not begin with %s…" % FIRST)
    parts: List[List[Record]] = []
    for record in records:
        if record.name == "gather":
            parts.append([])
        parts[-1].append(record)
    return [_capture(part[0], part[1:]) for part in parts]


def _records(text: str) -> List[Record]:
    reader, found = RecordReader(), []
    for number, line in enumerate(text.splitlines(), start=1):
        try:
            record = reader.feed(line)
        except (WireError, ValueError) as error:
            raise WireError("line %d: %s" % (number, error)) from None
        if record is not None:
            found.append(record)
    if reader.is_open:
        raise WireError("the gathered file is cut short: its last record did not end")
    return found


def _capture(head: Record, records: List[Record]) -> Capture:
    try:
        stated = parse_environment(head.text)
    except UnreadableError as error:
        raise WireError("the head of a gathered file: %s" % error) from None
    missing = [key for key in STATED if not stated.get(key)]
    if missing:
        raise WireError("the head of a gathered file states no %s" % missing[0])
    asked = stated["asked"]
    if asked not in GATHERED:
        known = ", ".join(GATHERED)
        raise WireError("unknown procedure: %s; expected one of %s" % (asked[:40], known))
    texts = [record for record in records if record.name != "fault"]
    faults = [_fault(line) for r in records if r.name == "fault" for line in r.text.splitlines()]
    account = account_of(asked, texts, faults)
    account.conditions["probe_version"] = "gather %s" % stated["version"]
    return capture_of(
        account,
        asked,
        stated["id"],
        stated["made_at"],
        stated["machine"],
        stated.get("system") or _system(account.text("os-release")),
    )


def _fault(line: str) -> Fault:
    kind, _, what = line.partition(" ")
    if kind not in FAULT_KINDS:
        raise WireError("unknown kind of fault: %s" % kind[:40])
    return Fault(kind, what)


def _system(text: Optional[str]) -> str:
    try:
        stated = parse_os_release(text or "")
    except UnreadableError as error:
        raise WireError("the gathered file names no system: %s" % error) from None
    return stated.get("PRETTY_NAME") or stated.get("NAME") or stated["ID"]
