"""How well the probe measures on a machine, from the check's own record."""

import json
from typing import Any, Dict

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError


def parse_check(text: str) -> Dict[str, Any]:
    """Read the text ``check``; raises UnreadableError where it is no record of one."""
    try:
        found = json.loads(text)
    except ValueError:
        raise UnreadableError("not a check: %r" % text[:80]) from None
    if not isinstance(found, dict) or "tree" not in found:
        raise UnreadableError("not a check: %r" % text[:80])
    return found


def tell(account: Account) -> None:
    """Bias and scatter as facts; a check gives no readings of the system."""
    account.facts["check"] = account.read("check", parse_check)
