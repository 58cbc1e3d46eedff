"""Package databases of whichever managers are there, read without the managers."""

import glob
import os
import shutil
import tempfile
from contextlib import closing, contextmanager
from typing import Iterator, List

from haremile_probe.collect.sources import Sources, fault_of
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.packages import parse_rpm_header
from haremile_probe.wire import Fault

DPKG = "/var/lib/dpkg/status"
APK = "/lib/apk/db/installed"
PACMAN = "/var/lib/pacman/local/*/desc"
RPM = ("/usr/lib/sysimage/rpm/rpmdb.sqlite", "/var/lib/rpm/rpmdb.sqlite")
NOT_READ = {
    "/usr/lib/sysimage/rpm/Packages.db": "rpm's own form (ndb), which this probe does not read",
    "/var/lib/rpm/Packages.db": "rpm's own form (ndb), which this probe does not read",
    "/var/lib/rpm/Packages": "rpm's older form (Berkeley DB), which this probe does not read",
    "/var/db/pkg/*/*": "portage, which this probe does not read",
    "/var/db/xbps/pkgdb-*.plist": "xbps, which this probe does not read",
    "/var/lib/flatpak/app/*": "flatpak: these applications are not counted",
    "/var/lib/snapd/snaps/*.snap": "snap: these packages are not counted",
}
"""What is there besides, and is named so that a count is not taken for the whole."""

KEPT = ("Package:", "Status:", "Version:", "Installed-Size:")


def read_packages(sources: Sources) -> None:
    """Keep the text of every package database; a fault where there is none at all."""
    before = len(sources.records), len(sources.faults)
    if os.path.exists(sources.path(DPKG)):
        _dpkg(sources)
    if os.path.exists(sources.path(APK)):
        sources.file("apk-installed", APK)
    _pacman(sources)
    for path in RPM:
        if os.path.exists(sources.path(path)):
            _rpm(sources, path)
            break
    for path, said in NOT_READ.items():
        if glob.glob(sources.path(path)):
            sources.faults.append(Fault("unreadable", "packages: %s: %s" % (path, said)))
    if (len(sources.records), len(sources.faults)) == before:
        sources.faults.append(Fault("absent", "packages: no package database that is known"))


def _dpkg(sources: Sources) -> None:
    """The fields that are read; descriptions would be nine tenths of the evidence."""
    try:
        text = sources.text_of(DPKG)
    except OSError as error:
        sources.faults.append(fault_of(error, "dpkg-status: %s" % DPKG))
        return
    lines = [line for line in text.split("\n") if not line or line.startswith(KEPT)]
    sources.add("dpkg-status", "\n".join(lines))


def _pacman(sources: Sources) -> None:
    texts: List[str] = []
    for path in sorted(glob.glob(sources.path(PACMAN))):
        try:
            texts.append(sources.text_of(path[len(sources.root) :]))
        except OSError as error:
            sources.faults.append(fault_of(error, "pacman-local: %s" % path))
    if texts:
        sources.add("pacman-local", "\n".join(texts))


@contextmanager
def _whole_database(path: str) -> Iterator[str]:
    """An address under which the database is read with what was not written back to it yet.

    Where changes wait in its log (``-wal``) it is a copy of both, since an ordinary user may not
    open the database itself in that state, and what is opened as unchanging ignores the log.
    """
    log = path + "-wal"
    if not (os.path.exists(log) and os.path.getsize(log)):
        yield "file:%s?mode=ro&immutable=1" % path
        return
    with tempfile.TemporaryDirectory(prefix="haremile-packages-") as folder:
        copy = os.path.join(folder, os.path.basename(path))
        shutil.copyfile(path, copy)
        shutil.copyfile(log, copy + "-wal")
        yield "file:%s" % copy


def _rpm(sources: Sources, path: str) -> None:
    """Written down as ``NAME VERSION BYTES``: the database itself is no text."""
    import sqlite3  # not on every machine, and needed on few

    lines = []
    try:
        with _whole_database(sources.path(path)) as address, closing(
            sqlite3.connect(address, uri=True)
        ) as database:
            for (blob,) in database.execute("SELECT blob FROM Packages"):
                package = parse_rpm_header(blob)
                size = "?" if package.size_bytes is None else str(package.size_bytes)
                lines.append("%s %s %s" % (package.name, package.version, size))
    except (OSError, sqlite3.Error, UnreadableError) as error:
        sources.faults.append(Fault("unreadable", "rpm-packages: %s: %s" % (path, error)))
        return
    sources.add("rpm-packages", "\n".join(sorted(lines)) + "\n")
