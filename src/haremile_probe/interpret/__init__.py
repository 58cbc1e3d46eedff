"""What a procedure's texts say together: pure, so that the server reads gathered texts the same."""

import json
from importlib import import_module
from typing import Dict, List, Sequence

from haremile_probe.interpret.about import tell_about
from haremile_probe.interpret.account import Account
from haremile_probe.interpret.machine_state import tell_machine_state
from haremile_probe.jobs import MEASURES
from haremile_probe.wire import NOT_MEASURED, Capture, Evidence, Fault, Record

WITHOUT_READINGS = ("about", "check")
PROCEDURES = ("about", *MEASURES, "check")
"""What a capture may answer; what each makes of its texts is told by the module of its name."""


def account_of(asked: str, records: Sequence[Record], faults: Sequence[Fault] = ()) -> Account:
    """Make readings, conditions and facts of a procedure's texts: what all have in common first."""
    account = Account(records, faults)
    tell_about(account)
    if asked != "about":
        module = import_module("haremile_probe.interpret." + asked)
        module.tell(account)
        tell_machine_state(account)
    return account


def capture_of(
    account: Account, asked: str, capture_id: str, made_at: str, machine: str, system: str
) -> Capture:
    """The capture document's content: readings, facts as evidence, and every text once.

    Without readings it could not be measured, unless what was measured failed itself.

    Of texts that were taken again and again (idle samples) the curve is kept and the picked one.
    """
    reason, outcome = None, "done"
    if asked not in WITHOUT_READINGS and not account.readings:
        met = account.faults[-1].what if account.faults else "nothing to read"
        reason = account.failure or "no readings: %s" % met
        outcome = "failed" if account.failure else NOT_MEASURED
    return Capture(
        id=capture_id,
        made_at=made_at,
        probe=account.conditions["probe_version"],
        asked=asked,
        machine=machine,
        system=system,
        outcome=outcome,
        reason=reason,
        conditions=account.conditions,
        readings=account.readings,
        traces=account.traces,
        evidence=_evidence(account),
        faults=account.faults,
    )


def _evidence(account: Account) -> List[Evidence]:
    facts = {key: value for key, value in account.facts.items() if value not in (None, {}, [])}
    kept = [Evidence("facts", json.dumps(facts, indent=1, sort_keys=True, ensure_ascii=False))]
    seen: Dict[str, int] = {}
    is_traced = any(trace.metric == "memory.used" for trace in account.traces)
    traced = {"meminfo"} if is_traced else set()
    for record in account.records:
        if record.name in traced:
            continue
        seen[record.name] = seen.get(record.name, 0) + 1
        number = "" if seen[record.name] == 1 else "-%d" % seen[record.name]
        kept.append(Evidence(record.name + number, record.text))
    return kept
