"""Cold and warm starts: bringing one about, and the proof that it was one."""

import os
from typing import Dict, Iterable, List, NamedTuple, Optional, Set

from haremile_probe.helper.client import HelperRefused, ask

COUNTERS = ("pgpgin", "pgmajfault")
PAGE = 4096
PROBED_PAGES = 64
MOST_FILES = 500
RWF_NOWAIT = 0x8


class Dropped(NamedTuple):
    """How caches were dropped (``kernel``, ``files``), and the share of probed pages left."""

    how: str
    resident_share: float


def paging_counters() -> Dict[str, int]:
    """KiB read in from storage and major faults since boot."""
    with open("/proc/vmstat", encoding="ascii") as file:
        pairs = dict(line.split() for line in file)
    return {name: int(pairs[name]) for name in COUNTERS}


def mapped_files(pids: Iterable[int]) -> Set[str]:
    """Regular files that processes have mapped; those of others are left out."""
    found = set()
    for pid in pids:
        try:
            with open("/proc/%d/maps" % pid, encoding="utf-8", errors="replace") as file:
                names = {line.split(None, 5)[5].strip() for line in file if line.count("/")}
        except (OSError, IndexError):
            continue  # it ended, or is another user's
        found |= {name for name in names if os.path.isfile(name)}
    return found


def drop_caches(files: Iterable[str]) -> Dropped:
    """Drop the page cache: all of it as root, else that of the files named.

    Raises OSError where neither can be done.
    """
    names = sorted(files)
    how = _drop(names)
    share = _told_share(names)
    if share is None:
        share = _share_by_reads(names)
        _drop(names)  # reads that may not wait still have the kernel read ahead
    return Dropped(how, share)


def _drop(names: Iterable[str]) -> str:
    try:
        ask("drop-caches")
        return "kernel"
    except (OSError, HelperRefused):
        pass  # an ordinary user without a helper: only the files' own pages can be dropped
    for name in names:
        descriptor = os.open(name, os.O_RDONLY)
        try:
            os.posix_fadvise(descriptor, 0, 0, os.POSIX_FADV_DONTNEED)
        finally:
            os.close(descriptor)
    return "files"


def resident_share(names: List[str]) -> float:
    """Share of pages that are in memory: told by the kernel through the helper, else by reads that
    may not wait for storage, which warm what they look at. 0 for no files.
    """
    share = _told_share(names)
    return _share_by_reads(names) if share is None else share


def _told_share(names: List[str]) -> Optional[float]:
    """As the kernel tells root, who asks through the helper; None where there is none."""
    try:
        told = ask("residency", files=names[:MOST_FILES])
    except (OSError, HelperRefused):
        return None  # no helper here, or a file that went away
    return told["resident"] / told["pages"] if told["pages"] else 0.0


def _share_by_reads(names: List[str]) -> float:
    """Which pages are resident is not told to everyone; a read with RWF_NOWAIT fails where it would
    have to wait (preadv2(2)), but has the kernel fetch what it asked for."""
    probed, resident = 0, 0
    for name in names:
        try:
            descriptor = os.open(name, os.O_RDONLY)
        except OSError:
            continue
        try:
            os.posix_fadvise(descriptor, 0, 0, os.POSIX_FADV_RANDOM)  # no more than is asked for
            size = os.fstat(descriptor).st_size
            offsets = range(0, size, max(size // PROBED_PAGES // PAGE, 1) * PAGE)
            absent = [offset for offset in offsets if not _is_resident(descriptor, offset)]
            probed += len(offsets)
            resident += len(offsets) - len(absent)
            for offset in absent:  # what is still being fetched could not be dropped
                os.pread(descriptor, 1, offset)
        finally:
            os.close(descriptor)
    return resident / probed if probed else 0.0


def _is_resident(descriptor: int, offset: int) -> bool:
    try:
        return os.preadv(descriptor, [bytearray(1)], offset, RWF_NOWAIT) == 1
    except OSError:
        return False
