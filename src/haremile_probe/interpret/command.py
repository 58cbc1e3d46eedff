"""A measure of the tester's own, from what its command printed."""

import json
import signal
from typing import Any, Dict

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.own_output import parse_own_output
from haremile_probe.wire import Fault

TEXTS = ("measure", "unit", "output", "errors")
SAID = 200


def parse_command(text: str) -> Dict[str, Any]:
    """Read the text ``command``; raises UnreadableError that names the fault."""
    try:
        found = json.loads(text)
        if not all(isinstance(found[name], str) for name in TEXTS):
            raise ValueError("texts are missing")
        if found["code"] is not None and not isinstance(found["code"], int):
            raise ValueError("its exit code is none: %r" % found["code"])
        if found["resolution"] is not None and not 0.0 < float(found["resolution"]) < 1e18:
            raise ValueError("its steps are none: %r" % found["resolution"])
        return dict(found)
    except (ValueError, KeyError, TypeError) as error:
        raise UnreadableError("not what became of a command: %s" % error) from None


def tell(account: Account) -> None:
    """The value, unless the command failed (which counts) or did not tell it (which is no fault of
    what is measured)."""
    found = account.read("command", parse_command)
    if found is None:
        return
    account.condition("measure", found["measure"])
    account.failure = _failure(found)
    if account.failure is not None or found["absent"]:
        what = account.failure or "not begun: %s" % found["absent"]
        account.faults.append(Fault("timed-out" if found["ended"] else "unreadable", what))
        return
    if found["ended"] == "flood":
        account.faults.append(Fault("unreadable", "the command printed without end"))
        return
    name = str(found["measure"]).rpartition(".")[2]
    try:
        value = parse_own_output(found["output"], name, found["unit"])
    except UnreadableError as error:
        account.faults.append(Fault("unreadable", "the command: %s" % error))
        return
    step = found["resolution"]
    account.add(
        found["measure"], value, found["unit"], "command", None if step is None else float(step)
    )


def _failure(found: Dict[str, Any]) -> Any:
    """Why what was measured failed itself; None where it did not."""
    if found["ended"] == "limit":
        return "the command was still at it after %g s" % found["limit_s"]
    if found["ended"] or not found["code"]:
        return None
    said = found["errors"].strip().splitlines()[-1:]
    code = found["code"]
    how = "code %d" % code if code > 0 else _signal_name(-code)
    return ": ".join(["the command ended with %s" % how, *said])[:SAID]


def _signal_name(number: int) -> str:
    try:
        return signal.Signals(number).name
    except ValueError:
        return "signal %d" % number
