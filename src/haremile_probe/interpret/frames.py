"""Pictures that were shown and not shown, from what our page counted of a clip and an animation."""

from typing import Dict

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError

MOST = 10_000_000
NAMES = (
    "shown",
    "missed",
    "ms",
    "start_shown",
    "start_missed",
    "frames",
    "dropped",
    "start_frames",
    "start_dropped",
)
"""The animation's pictures, and the milliseconds that they took; the clip's; at the start apart."""


def parse_counts(text: str) -> Dict[str, int]:
    """Read the text ``frames``: a line ``name=count`` each; raises UnreadableError."""
    found: Dict[str, int] = {}
    for line in text.split():
        name, mark, number = line.partition("=")
        if not mark or name not in NAMES or not number.isdigit() or int(number) > MOST:
            raise UnreadableError("no count of pictures: %s" % line[:60])
        found[name] = int(number)
    return found


def tell(account: Account) -> None:
    """Pictures a second of the animation and the share that it missed; the share of the clip's that
    was dropped, at its start apart."""
    found = account.read("frames", parse_counts)
    if found is None:
        return
    account.facts["frames"] = found
    shown, lasted = found.get("shown", 0), found.get("ms", 0)
    if shown and lasted:
        account.add("frame.rate", 1000.0 * shown / lasted, "1/s", "probe")
        missed = found.get("missed", 0)
        account.add("frame.missed", missed / (shown + missed), "share", "probe")
    for metric, of in (("frame.dropped", ""), ("frame.dropped_start", "start_")):
        every = found.get(of + "frames", 0)
        if every:
            account.add(metric, found.get(of + "dropped", 0) / every, "share", "probe", 1.0 / every)
