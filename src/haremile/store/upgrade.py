"""Data moved to another version of PostgreSQL, by dump and load; the old stay until one takes them
away."""

import fcntl
import shutil
import time
from dataclasses import dataclass
from pathlib import Path

from haremile.errors import ConflictError, HareMileError, NotFoundError
from haremile.store.backup import Report, check_workspace, restore_backup, status_of, write_backup
from haremile.store.cluster import Cluster, programs


@dataclass(frozen=True)
class Upgraded:
    """From which version to which, the backup that was written, and where the old data stand."""

    before: int
    now: int
    backup: Path
    kept: Path


def upgrade_data(folder: Path, report: Report) -> Upgraded | None:
    """Move the data of a cluster of ours to the newest server of this machine; None where they are
    of that one already.

    The old data are renamed at the very end, once everything in the new is proved: the same rows in
    every table, every capture by its hash, every rule.

    Raises
    ------
    NotFoundError
        If there are no data.
    ConflictError
        If another command uses them.
    MissingHereError
        If the server of their own version is gone.
    HareMileError
        If what came over is not what there was; the old data are as they were.
    """
    data = folder / "postgres"
    if not (data / "PG_VERSION").exists():
        raise NotFoundError("data of ours", str(data))
    before = int((data / "PG_VERSION").read_text())
    now = max(programs("postgres"), default=before)
    if now <= before:
        return None
    kept, fresh = folder / f"postgres-{before}", folder / "upgrading"
    if kept.exists():
        raise ConflictError(f"{kept} is there already; look at it and move it away first")
    _check_alone(folder)
    shutil.rmtree(fresh, ignore_errors=True)  # one that was cut short
    stamp = time.strftime("%Y%m%d-%H%M%S")
    backup = folder / "backups" / f"before-postgresql-{now}-{stamp}.dump"
    backup.parent.mkdir(mode=0o700, exist_ok=True)
    old, new = Cluster(folder), Cluster(fresh)
    try:
        report(f"reading the data of PostgreSQL {before}")
        url = old.start()
        rows = status_of(url).rows
        write_backup(url, backup, report)
        report(f"bringing them into PostgreSQL {now}")
        moved = new.start()
        restore_backup(moved, backup, report)
        _prove(moved, rows, report)
    except BaseException:
        new.stop()
        shutil.rmtree(fresh, ignore_errors=True)
        raise
    finally:
        old.stop()
    new.stop()
    data.rename(kept)
    (folder / "password").replace(folder / f"password-{before}")
    (fresh / "postgres").rename(data)
    (fresh / "password").replace(folder / "password")
    shutil.rmtree(fresh, ignore_errors=True)
    return Upgraded(before, now, backup, kept)


def _check_alone(folder: Path) -> None:
    with (folder / "in-use").open("a+") as used:
        try:
            fcntl.lockf(used, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise ConflictError("another command uses these data; stop it first") from None


def _prove(url: str, rows: dict[str, int], report: Report) -> None:
    found = status_of(url).rows
    if found != rows:
        other = sorted(name for name in {*rows, *found} if rows.get(name) != found.get(name))
        raise HareMileError(
            f"not all came over ({', '.join(other)}); the old data are as they were"
        )
    checked = check_workspace(url, report)
    if checked.faults:
        raise HareMileError(f"{checked.faults[0]}; the old data are as they were")
