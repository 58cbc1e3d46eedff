"""Space used, files and packages; and what changed since an earlier capture."""

from typing import Dict, List, Optional, Tuple

from haremile_probe.interpret.about import installed_packages
from haremile_probe.interpret.account import Account
from haremile_probe.parsers.file_system import parse_file_system
from haremile_probe.parsers.mounts import parse_swaps
from haremile_probe.parsers.walk import parse_walk
from haremile_probe.wire import Capture, Fault

BIGGEST = 20
BLOCK = 512.0
MIB = 2.0**20


def tell(account: Account) -> None:
    """Readings of space and packages; folders, what comes and goes, and the biggest packages."""
    space = account.read("filesystem", parse_file_system)
    if space is not None:
        account.add("disk.used", float(space.used_bytes), "B", "statvfs")
        account.facts["file_system"] = space._asdict()
    walk = account.read("walk", parse_walk)
    if walk is not None:
        account.facts["walk"] = walk._asdict()
        if space is not None:
            account.facts["walked_against_used"] = _against(walk.total_bytes, space.used_bytes)
        if walk.unreadable:
            account.faults.append(
                Fault("denied", "disk.walked: %d entries could not be read" % walk.unreadable)
            )
        else:
            account.add("disk.walked", float(walk.total_bytes), "B", "walk", BLOCK)
    areas = account.read("swaps", parse_swaps)
    if areas is not None:
        files = [area for area in areas if area.kind == "file"]
        account.facts["swap_files_bytes"] = sum(area.size_bytes for area in files)
    _packages(account)


def _against(walked: int, used: int) -> str:
    """Why the two are not the same."""
    apart = "%.1f MiB walked, %.1f MiB used" % (walked / MIB, used / MIB)
    if walked > used * 1.01:
        return apart + ": files share blocks (copies that are references, compression)"
    if used > walked * 1.01:
        return apart + ": the file system's own records, deleted files still open, snapshots"
    return apart


def _packages(account: Account) -> None:
    found = installed_packages(account)
    if not found:
        return
    every = [package for packages in found.values() for package in packages]
    account.add("package.count", float(len(every)), "1", "package-db")
    sized = [(p.name, p.size_bytes) for p in every if p.size_bytes is not None]
    account.facts["biggest_packages"] = sorted(sized, key=lambda item: -item[1])[:BIGGEST]
    pending = account.conditions.get("updates_pending")
    account.add("package.pending", None if pending is None else float(pending), "1", "package-db")


def cost_since(before: Capture, now: Account) -> List[Tuple[str, float, str]]:
    """What readings grew by since an earlier capture: metric, difference and unit, in order."""
    earlier: Dict[Tuple[str, str], Optional[float]] = {
        (r.metric, r.method): r.value for r in before.readings
    }
    found = []
    for reading in now.readings:
        was = earlier.get((reading.metric, reading.method))
        if was is not None:
            found.append((reading.metric, reading.value - was, reading.unit))
    return found
