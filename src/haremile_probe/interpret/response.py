"""How soon a key shows, from the answers of all keys that were sent."""

import json
from typing import Any, Dict, List, NamedTuple, Optional

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import NOT_MEASURED, CaptureReading, Fault

WHEN = ("rest", "busy")
LATE_S = 0.1
"""A key that shows nothing for so long is felt to be late."""

CLOCK_S = 0.001
MOST_KEYS = 1000
MOST_S = 600.0


class Answers(NamedTuple):
    """Seconds of each key, None where nothing changed; by when they were sent. `reason` is why the
    application could not be used, where it could not."""

    answers: Dict[str, List[Optional[float]]]
    busy: str
    reason: Optional[str]
    outcome: str


def parse_answers(text: str) -> Answers:
    """Read the text ``response``; raises UnreadableError that names the fault."""
    try:
        found = json.loads(text)
        answers = {when: [_seconds(one) for one in found["answers"].get(when, ())] for when in WHEN}
        if any(len(every) > MOST_KEYS for every in answers.values()):
            raise ValueError("more than %d keys" % MOST_KEYS)
        reason = None if found["reason"] is None else str(found["reason"])
        outcome = NOT_MEASURED if found["is_ours"] is True else "failed"
        return Answers(answers, str(found["busy"]), reason, outcome)
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise UnreadableError("no answers to keys: %s" % error) from None


def _seconds(value: Any) -> Optional[float]:
    if value is None:
        return None
    if isinstance(value, bool) or not 0.0 <= float(value) < MOST_S:
        raise ValueError("no time: %r" % value)
    return float(value)


def within(answers: List[Optional[float]], share: float) -> Optional[float]:
    """Within what time so large a share of the keys showed; None where fewer ever did."""
    ordered = sorted(one for one in answers if one is not None)
    place = max(int(share * len(answers) + 0.999999) - 1, 0)
    return ordered[place] if place < len(ordered) else None


def tell(account: Account) -> None:
    """Median, 95th percentile and the share that was late, at rest and beside a stated load."""
    found = account.read("response", parse_answers)
    if found is None:
        return
    if found.reason is not None:
        account.failure = found.reason if found.outcome == "failed" else None
        account.faults.append(Fault("unreadable", "response: %s" % found.reason))
        return
    for when, answers in found.answers.items():
        if not answers:
            continue
        if not any(one is not None for one in answers):
            what = (
                "response.%s: no key changed anything; text has to be typed there, or the key open "
                "the menu" % when
            )
            account.faults.append(Fault("absent", what))
            continue
        own = {"background": found.busy} if when == "busy" else {}
        late = sum(one is None or one > LATE_S for one in answers) / len(answers)
        for name, value, unit, step in (
            ("", within(answers, 0.5), "s", CLOCK_S),
            ("_p95", within(answers, 0.95), "s", CLOCK_S),
            ("_late", late, "share", 1.0 / len(answers)),
        ):
            if value is not None:
                account.readings.append(
                    CaptureReading(
                        "response.%s%s" % (when, name), value, unit, "probe", step, 0, dict(own)
                    )
                )
