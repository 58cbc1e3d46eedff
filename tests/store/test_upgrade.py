"""Data move to another server version by dump and load; the old stay. A stand-in of the newer
server is the one that is here, under another number."""

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import psycopg
import pytest

from haremile.errors import ConflictError, HareMileError, NotFoundError
from haremile.store import cluster as clusters
from haremile.store.cluster import Cluster, programs
from haremile.store.database import connect, migrate
from haremile.store.rows import database
from haremile.store.upgrade import upgrade_data


@pytest.fixture(name="folder")
def folder_with_data():
    """A workspace of the server that is here, with a host in it."""
    made = Path(tempfile.mkdtemp(prefix="hm-test-", dir="/tmp"))
    made.chmod(0o755)
    kept = database.obj
    cluster = Cluster(made / "data")
    url = cluster.start()
    bound = connect(url)
    migrate(bound, url)
    with psycopg.connect(url) as link:
        link.execute("insert into host (id, name, capacity) values (gen_random_uuid(), 'Shed', 1)")
    bound.close_all()
    database.initialize(kept)
    cluster.stop()
    yield made / "data"
    shutil.rmtree(made)


@pytest.fixture(name="newer")
def newer_server(monkeypatch, tmp_path_factory):
    """The same server once more under the next number."""
    here = max(programs("postgres"))
    made = Path(tempfile.mkdtemp(prefix="hm-pg-versions-", dir="/tmp"))
    made.chmod(0o755)
    for number in (here, here + 1):
        (made / str(number)).symlink_to(clusters.BINARIES / str(here))
    monkeypatch.setattr(clusters, "BINARIES", made)
    yield here, here + 1
    shutil.rmtree(made)


def hosts(folder):
    cluster = Cluster(folder)
    try:
        with psycopg.connect(cluster.start()) as link:
            return [row[0] for row in link.execute("select name from host order by name")]
    finally:
        cluster.stop()


def test_data_move_and_the_old_stay(folder, newer):
    before, now = newer
    told = []
    done = upgrade_data(folder, told.append)
    assert (done.before, done.now) == newer
    assert done.kept == folder / f"postgres-{before}" and (done.kept / "PG_VERSION").exists()
    assert done.backup.stat().st_size > 0 and any(str(now) in one for one in told)
    assert "Shed" in hosts(folder) and not (folder / "upgrading").exists()


def test_of_the_newest_nothing_is_done(folder):
    assert upgrade_data(folder, lambda text: None) is None
    assert hosts(folder) == ["Shed"]


def test_data_that_are_in_use_are_left_alone(folder, newer):
    cluster = Cluster(folder)
    cluster.start()
    try:
        with pytest.raises(ConflictError, match="another command uses"):
            upgrade_data_elsewhere(folder)
    finally:
        cluster.stop()


def upgrade_data_elsewhere(folder):
    """From another process: a lock does not hold against its own."""

    code = (
        "import sys; from pathlib import Path; from haremile.store import cluster, upgrade;"
        "cluster.BINARIES = Path(sys.argv[2]);"
        "upgrade.upgrade_data(Path(sys.argv[1]), print)"
    )
    command = [sys.executable, "-c", code, str(folder), str(clusters.BINARIES)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode, done.stdout
    raise ConflictError(done.stderr.strip().splitlines()[-1])


def test_what_does_not_come_over_whole_leaves_the_old_as_they_were(folder, newer, monkeypatch):
    monkeypatch.setattr("haremile.store.upgrade.restore_backup", lambda url, source, report: None)
    with pytest.raises(HareMileError, match="not all came over"):
        upgrade_data(folder, lambda text: None)
    assert hosts(folder) == ["Shed"] and not (folder / "upgrading").exists()


def test_where_there_are_no_data_there_is_nothing_to_move(tmp_path):
    with pytest.raises(NotFoundError):
        upgrade_data(tmp_path, lambda text: None)
