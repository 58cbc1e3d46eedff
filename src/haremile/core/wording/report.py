"""Sentences of a report that no finding gives: methods in plain words, what changed since."""

from collections.abc import Iterable, Mapping, Sequence

from haremile.core.records.metrics import metric
from haremile.core.wording.numbers import count, listed

METHODS = {
    "systemd": "the service manager’s own record of the boot",
    "firmware-table": "the record that the firmware keeps of the boot",
    "efi": "the time stamps of the boot loader",
    "kernel-log": "the kernel’s log",
    "session-start": "the moment at which the session was there",
    "host-marker": "a mark that the guest writes and its host stamps",
    "serial": "lines on the serial console, stamped by the host",
    "port": "the moment at which a port answered",
    "screen": "what was seen on the screen",
    "probe": "our probe, which asks the system itself",
    "statvfs": "what the file system says is in use",
    "walk": "every file’s size, added up",
    "package-db": "the package manager’s own list",
    "hand": "a person with a stopwatch, whose reaction was drilled and taken off",
    "recording": "marks set in a recording, to a frame",
    "typed": "figures that a person typed or a file brought",
    "counted-clock": "work counted by the guest’s own clock",
    "wayland": "what the display server told of windows",
    "accessibility": "what the application told assistive programs",
    "scope": "the control group of the application alone",
    "native": "our own small program, its threads wherever the system puts them",
    "native-pinned": "our own small program, its threads bound to one processor",
    "present": "what the X server told of each picture that a window presented",
    "login-service": "the clocks, the machine sent to sleep through its login service",
    "command": "a command of the tester’s own, which prints the value",
}
RULE = (
    "Each contender was measured several times. Its figure is the median: half of its readings lie "
    "below it, half above. The range beside it holds the true median with 95 % certainty. One is "
    "said to be ahead only where the whole range of the difference lies beyond the margin that "
    "matters; level only where it lies wholly inside; otherwise it stays undecided."
)
BLOCKS = (
    "Runs were done in blocks, in each of which every contender ran once in an order that was "
    "drawn by lot, so that what changes with time meets all of them alike."
)
AS_BROUGHT = "The runs were done elsewhere, and stand in the order in which they were brought in."
VISITS = "One contender was measured after the other, with a return to the first at the end."
KEPT_IN = "Failed runs are counted and named, never left out. Every reading stands at the end."


def methods_in_words(
    shown: Iterable[tuple[str, str]], order: str, is_shuffled: bool, expected_false: str
) -> list[str]:
    """How the figures came about, in paragraphs.

    Parameters
    ----------
    shown : pairs of metric key and method
    order : str
        The study's order; ``visits`` is one contender after the other.
    is_shuffled : bool
    expected_false : str
        How many false verdicts are to be expected, as findings say it.
    """
    ways: dict[str, list[str]] = {}
    for key, method in shown:
        way = METHODS.get(method, method)
        label = metric(key).label.lower()
        if label not in ways.setdefault(way, []):
            ways[way].append(label)
    means = [f"{listed(labels)}: by {way}" for way, labels in ways.items()]
    told = f"What was measured, and how. {'; '.join(means)}." if means else ""
    sequence = VISITS if order == "visits" else BLOCKS if is_shuffled else AS_BROUGHT
    return [one for one in (told, sequence, f"{RULE} {expected_false}".strip(), KEPT_IN) if one]


Figures = Mapping[str, Mapping[str, str]]
"""Each row's figures by the name of their lane, and its verdict under an empty name."""


def report_changes(
    was: Figures, now: Figures, was_words: Sequence[str], now_words: Sequence[str]
) -> list[str]:
    """What another version says otherwise; figures are compared as they are written."""
    told = [f"{title} is shown too" for title in now if title not in was]
    told += [f"{title} is not shown any more" for title in was if title not in now]
    for title, figures in now.items():
        before = was.get(title)
        if before is None or before == figures:
            continue
        for name, figure in figures.items():
            old = before.get(name)
            if old is None:
                told.append(f"{title}: {name} is there now")
            elif old != figure:
                told.append(f"{title}{f', {name}' if name else ''}: {figure}, was {old}")
        told += [f"{title}: {name} is gone" for name in before if name not in figures]
    if list(was_words) != list(now_words):
        told.append("other words")
    return told


def versions_said(changes: Sequence[str]) -> str:
    """Whether the newest version still says what the study says."""
    if not changes:
        return "The newest version says what the study says now."
    return f"The study says more now than the newest version: {count(len(changes), 'change')}."
