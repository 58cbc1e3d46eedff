"""Pictures that were shown and not shown, from what our page counted of a clip and an animation, or
from what the X server told of an application's window."""

from typing import Dict, List, NamedTuple

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import Fault

MOST = 10_000_000
LEAST_PICTURES = 20
"""Fewer pictures say nothing of how often one lacks."""

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


class Picture(NamedTuple):
    """One that was presented: when, in microseconds; at which refresh; and whether it was shown."""

    at_us: int
    refresh: int
    is_shown: bool


def parse_presented(text: str) -> List[Picture]:
    """Read the text ``presented``: a line ``time refresh shown`` each; raises UnreadableError."""
    found: List[Picture] = []
    for line in text.splitlines():
        words = line.split()
        if len(words) != 3 or not all(word.isdigit() and len(word) < 20 for word in words):
            raise UnreadableError("no picture: %s" % line[:60])
        one = Picture(int(words[0]), int(words[1]), words[2] == "1")
        if found and one.at_us < found[-1].at_us:
            raise UnreadableError("a picture before the one that came first: %s" % line[:60])
        found.append(one)
    return found


def missed(gaps: List[int]) -> int:
    """How many pictures lack where they usually come so far apart as the median gap says."""
    usual = sorted(gaps)[len(gaps) // 2]
    return sum(max(round(gap / usual) - 1, 0) for gap in gaps)


def _tell_presented(account: Account, every: List[Picture]) -> None:
    shown = [one for one in every if one.is_shown]
    gaps = [b.refresh - a.refresh for a, b in zip(shown, shown[1:]) if b.refresh > a.refresh]
    account.facts["presented"] = {"presented": len(every), "shown": len(shown)}
    if len(gaps) < LEAST_PICTURES:
        what = "presented: %d pictures only" % len(shown)
        account.faults.append(Fault("absent", what))
        return
    lacking = missed(gaps)
    lasted_us = shown[-1].at_us - shown[0].at_us
    account.facts["presented"]["missed"] = lacking
    account.add("frame.rate", 1e6 * (len(shown) - 1) / lasted_us, "1/s", "present")
    account.add("frame.missed", lacking / (len(gaps) + lacking), "share", "present")


def tell(account: Account) -> None:
    """Pictures a second of the animation and the share that it missed; the share of the clip's that
    was dropped, at its start apart. Or both of the pictures that a window presented."""
    pictures = account.read("presented", parse_presented)
    if pictures is not None:
        _tell_presented(account, pictures)
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
