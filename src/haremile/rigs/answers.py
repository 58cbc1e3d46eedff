"""The answer to an order: what a rig read itself, or what a probe brought."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime

from uuid_utils.compat import uuid7

from haremile.usecases.ports import RunOrder
from haremile_probe import VERSION
from haremile_probe.wire import (
    NOT_MEASURED,
    Capture,
    CaptureReading,
    CaptureTrace,
    Evidence,
    Fault,
    Ticket,
)


def fresh_capture(
    order: RunOrder,
    conditions: Mapping[str, str],
    readings: Sequence[CaptureReading],
    *,
    traces: Sequence[CaptureTrace] = (),
    evidence: Sequence[Evidence] = (),
    faults: Sequence[Fault] = (),
) -> Capture:
    """What a rig itself read for an order that was carried out."""
    return Capture(
        id=str(uuid7()),
        made_at=datetime.now(UTC).isoformat(),
        probe=VERSION,
        asked=order.procedure,
        machine=order.install.machine.name,
        system=order.install.system.name,
        outcome="done",
        ticket=Ticket(str(order.run_id), order.attempt),
        conditions=dict(conditions),
        readings=list(readings),
        traces=list(traces),
        evidence=list(evidence),
        faults=list(faults),
    )


def answer_to(
    order: RunOrder,
    capture: Capture,
    conditions: Mapping[str, str],
    readings: Sequence[CaptureReading] = (),
    evidence: Sequence[Evidence] = (),
) -> Capture:
    """The capture with the order's names and ticket, and with what was seen from outside.

    What the plan states of a run (the application of a launch by its name) stands before what the
    probe saw of it (its command), so that all contenders' readings carry the same name.
    """
    seen = () if capture.outcome == "failed" else readings
    if seen and capture.outcome == NOT_MEASURED:  # from outside it was measured all the same
        capture = replace(capture, outcome="done", reason=None)
    return replace(
        capture,
        asked=order.procedure,
        machine=order.install.machine.name,
        system=order.install.system.name,
        ticket=Ticket(str(order.run_id), order.attempt),
        conditions={**capture.conditions, **conditions, **order.conditions},
        readings=[*capture.readings, *seen],
        evidence=[*capture.evidence, *evidence],
    )
