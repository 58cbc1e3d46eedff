"""Heat, frequency and throttling beside a run, as curves; what a machine does not tell, and why."""

from typing import Dict, List, Optional, Tuple

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import CaptureTrace

NAME = "machine-state"
LEAST_LOOKS = 2
MOST_LINES = 10_000
HOTTEST, COLDEST = 250_000, -100_000

CURVES = (
    ("machine.temperature", "°C", 1e-3, "no thermal zone and no temperature sensor is here"),
    ("machine.frequency", "Hz", 1e3, "the processors tell no frequency"),
    ("machine.throttled", "1", 1.0, "the processors do not count how often they were throttled"),
)
"""Metric, its unit, one step of the text in it, and why there is no curve where there is none."""

Looks = List[Tuple[float, List[Optional[int]]]]


def parse_looks(text: str) -> Looks:
    """Read the text ``machine-state``: ``seconds millidegrees kilohertz times`` a line, a dash for
    what was not told; raises UnreadableError."""
    lines = text.splitlines()
    if len(lines) > MOST_LINES:
        raise UnreadableError("%d lines are too many" % len(lines))
    found: Looks = []
    for line in lines:
        words = line.split(" ")
        try:
            at = float(words[0])
            numbers = [None if word == "-" else int(word) for word in words[1:]]
        except ValueError:
            raise UnreadableError("no look at the machine: %r" % line[:60]) from None
        is_later = not found or at >= found[-1][0]
        if len(numbers) != len(CURVES) or not is_later or not 0.0 <= at < 1e7:
            raise UnreadableError("no look at the machine: %r" % line[:60])
        heat = numbers[0]
        if heat is not None and not COLDEST < heat < HOTTEST:
            raise UnreadableError("no temperature of a machine: %d m°C" % heat)
        found.append((at, numbers))
    return found


def tell_machine_state(account: Account) -> None:
    """A curve for each thing that was told at two looks at least, by seconds since the run began.

    Throttling is counted from the run's begin on.
    """
    looks = account.read(NAME, parse_looks)
    if looks is None:
        return
    lacking: Dict[str, str] = {}
    for place, (metric, unit, step, why) in enumerate(CURVES):
        told = [(at, numbers[place]) for at, numbers in looks if numbers[place] is not None]
        if len(told) < LEAST_LOOKS:
            lacking[metric] = why if not told else "it was over too soon"
            continue
        first = told[0][1] if metric == "machine.throttled" else 0
        values = [step * ((value or 0) - (first or 0)) for _, value in told]
        account.traces.append(CaptureTrace(metric, unit, [at for at, _ in told], values))
    account.facts["machine_state_lacks"] = lacking
