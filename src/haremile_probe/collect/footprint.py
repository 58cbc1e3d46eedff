"""The footprint: what the file system states, and what a walk over all its files finds."""

import errno
import os
import stat
from typing import Dict, List, Sequence, Set, Tuple

from haremile_probe.collect.sources import Progress, Sources
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.mounts import Mount, Reach, is_below, parse_mountinfo, reach_of
from haremile_probe.parsers.walk import APART, WITHOUT
from haremile_probe.wire import Fault

BLOCK = 512
WITH_SUBVOLUMES = ("btrfs", "bcachefs")
"""Their parts have device numbers of their own."""

EVERY = 20_000


def read_file_system(sources: Sources) -> None:
    """Blocks in all and free of the root file system."""
    found = os.statvfs(sources.path("/"))
    sources.add(
        "filesystem",
        "block_size=%d blocks=%d free=%d\n" % (found.f_frsize, found.f_blocks, found.f_bfree),
    )


class Walker:
    """Adds up blocks below a root: hard links once, other file systems left out.

    What cannot be listed or looked at is counted. What of the file system is mounted elsewhere in
    the tree, or is a subvolume, belongs to it; other file systems do not, nor what is shown a
    second time: both are named.
    """

    def __init__(self, root: str = "/", mounts: Sequence[Mount] = ()):
        self.root = root.rstrip("/") or "/"
        self._devices = {os.lstat(self.root).st_dev}
        self._reach = reach_of(list(mounts), self.root) if mounts else Reach("", {}, {})
        self.entries, self.unreadable, self.total = 0, 0, 0
        self.top: Dict[str, int] = {}
        self.apart: Dict[str, int] = {}
        self._linked: Set[Tuple[int, int]] = set()
        self._apart_of = {folder: kind for kind, folders in APART.items() for folder in folders}

    def walk(self, progress: Progress) -> None:
        """Walk the whole tree."""
        self._count(os.lstat(self.root), "", ())
        pending: List[Tuple[str, str, Tuple[str, ...]]] = [(self.root, "", ())]
        while pending:
            path, top, kinds = pending.pop()
            try:
                entries = list(os.scandir(path))
            except OSError as error:
                self.unreadable += error.errno != errno.ENOENT
                continue
            for entry in entries:
                below = top or entry.name
                inside = self._kinds(entry.path, kinds)
                if self._is_folder_here(entry, below, inside):
                    pending.append((entry.path, below, inside))
                if self.entries % EVERY == 0:
                    progress("%d entries, %.1f MiB" % (self.entries, self.total / 2**20))

    def _kinds(self, path: str, kinds: Tuple[str, ...]) -> Tuple[str, ...]:
        own = path[len(self.root) :] if self.root != "/" else path
        kind = self._apart_of.get(own)
        return kinds if kind is None else (*kinds, kind)

    def _is_folder_here(self, entry: "os.DirEntry[str]", top: str, kinds: Tuple[str, ...]) -> bool:
        try:
            status = entry.stat(follow_symlinks=False)
        except OSError as error:
            self.unreadable += error.errno != errno.ENOENT
            return False
        if entry.path in self._reach.left_out:
            return False
        is_folder = stat.S_ISDIR(status.st_mode)
        if status.st_dev not in self._devices and self._is_elsewhere(entry.path, is_folder):
            self._reach.left_out[entry.path] = "another file system"
            return False
        self._devices.add(status.st_dev)
        if not is_folder and status.st_nlink > 1:
            if (status.st_dev, status.st_ino) in self._linked:
                return False
            self._linked.add((status.st_dev, status.st_ino))
        self._count(status, top, kinds)
        return is_folder

    def _is_elsewhere(self, path: str, is_folder: bool) -> bool:
        """Whether a device number that was not met before is another file system's. Where mounts
        are known, single files with one of their own are of a layer below, as in live systems."""
        if path in self._reach.entered or self._reach.kind in WITH_SUBVOLUMES:
            return False
        return is_folder or not self._reach.kind

    def _count(self, status: os.stat_result, top: str, kinds: Tuple[str, ...]) -> None:
        size = status.st_blocks * BLOCK
        self.entries += 1
        self.total += size
        if top:
            self.top[top] = self.top.get(top, 0) + size
        for kind in kinds:
            self.apart[kind] = self.apart.get(kind, 0) + size

    def text(self) -> str:
        """The sizes as a text that `parse_walk` reads."""
        lines = ["total %d" % self.total, "entries %d" % self.entries]
        lines.append("unreadable %d" % self.unreadable)
        lines += ["top %d %s" % (size, name.replace("\n", "?")) for name, size in self.top.items()]
        lines += ["apart %d %s" % (size, kind) for kind, size in self.apart.items()]
        for path, reason in sorted(self._reach.left_out.items()):
            if not is_below(path, "/proc") and not is_below(path, "/sys"):
                lines.append("%s%s: %s" % (WITHOUT, path.replace("\n", "?"), reason))
        return "\n".join(lines) + "\n"


def _mounts(sources: Sources) -> Sequence[Mount]:
    """What is mounted where; where the kernel does not say, device numbers alone tell."""
    try:
        return parse_mountinfo(sources.text_of("/proc/self/mountinfo"))
    except (OSError, UnreadableError) as error:
        sources.faults.append(Fault("absent", "mounts, for the walk: %s" % error))
        return ()


def read_walk(sources: Sources, progress: Progress) -> None:
    """Walk the root file system and keep what was found."""
    walker = Walker(sources.path("/"), _mounts(sources))
    walker.walk(progress)
    if walker.unreadable and os.geteuid() != 0:
        from haremile_probe.helper.client import HelperRefused, ask

        progress("%d folders were denied: asking the helper" % walker.unreadable)
        try:
            sources.add("walk", str(ask("tree-walk")["texts"]["walk"]))
            return
        except (OSError, HelperRefused, KeyError) as error:
            progress("no helper: %s" % error)  # the walk states how many it could not read
    sources.add("walk", walker.text())
