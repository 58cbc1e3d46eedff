import os
import shutil
import signal
import subprocess
import sys
import tempfile
import textwrap
import threading
from pathlib import Path

import psycopg
import pytest
from tenacity import Retrying, retry_if_exception_type, stop_after_delay, wait_fixed

from haremile.errors import MissingHereError, StoreUnavailableError
from haremile.store.cluster import Cluster
from haremile.store.database import connect, migrate
from haremile.store.events import PostgresEventLog
from haremile.store.rows import database


@pytest.fixture
def folder():
    """A short path that the service user may reach; pytest's own is private to root."""
    made = Path(tempfile.mkdtemp(prefix="hm-test-", dir="/tmp"))
    made.chmod(0o755)
    yield made / "a path with a space"
    shutil.rmtree(made)


def postmaster_of(folder):
    return int((folder / "postgres/postmaster.pid").read_text().split()[0])


def is_alive(pid):
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_a_cluster_is_made_joined_stopped_and_started_again(folder):
    owner, guest = Cluster(folder), Cluster(folder)
    url = owner.start()
    try:
        with psycopg.connect(url) as link:
            link.execute("create table kept (n int)")
        assert guest.start() == url
        guest.stop()
        with psycopg.connect(url) as link:  # the one who joined does not stop it
            link.execute("select * from kept")
        assert oct((folder / "password").stat().st_mode)[-3:] == "600"
    finally:
        owner.stop()
    with pytest.raises(psycopg.OperationalError):
        psycopg.connect(url)
    again = Cluster(folder)
    try:
        with psycopg.connect(again.start()) as link:
            assert link.execute("select count(*) from kept").fetchone() == (0,)
    finally:
        again.stop()


USES_IT = """
import sys
from pathlib import Path
from haremile.store.cluster import Cluster
joined = Cluster(Path(sys.argv[1]))
print(joined.start(), flush=True)
sys.stdin.read()
joined.stop()
"""


def test_who_started_it_leaves_it_to_another_command_until_that_has_ended(folder):
    owner = Cluster(folder)
    url = owner.start()
    other = subprocess.Popen(
        [sys.executable, "-c", USES_IT, str(folder)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert other.stdout.readline().strip() == url
    leaving = threading.Thread(target=owner.stop)
    leaving.start()
    with psycopg.connect(url) as link:
        link.execute("select 1")
    other.stdin.close()
    assert other.wait(30) == 0
    leaving.join(30)
    assert not leaving.is_alive()
    with pytest.raises(psycopg.OperationalError):
        psycopg.connect(url)


def test_folders_that_were_there_keep_their_rights(folder):
    folder.parent.chmod(0o1777)
    cluster = Cluster(folder / "deeper")
    cluster.start()
    cluster.stop()
    assert folder.parent.stat().st_mode & 0o7777 == 0o1777
    assert folder.stat().st_mode & 0o7777 == 0o755


def test_the_server_goes_when_its_parent_is_killed_and_comes_back(folder):
    script = textwrap.dedent(f"""
        import pathlib, signal
        from haremile.store.cluster import Cluster
        Cluster(pathlib.Path({str(folder)!r})).start()
        print("up", flush=True)
        signal.pause()
    """)
    parent = subprocess.Popen(
        [sys.executable, "-c", script],
        stdout=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
    )
    assert parent.stdout.readline() == "up\n"
    pid = postmaster_of(folder)
    parent.send_signal(signal.SIGKILL)
    parent.wait()
    parent.stdout.close()
    again = Cluster(folder)
    try:
        url = again.start()  # waits for the old one to be gone
        assert not is_alive(pid)
        with psycopg.connect(url) as link:
            assert link.execute("select 1").fetchone() == (1,)
    finally:
        again.stop()


def answers(url):
    with psycopg.connect(url, connect_timeout=2) as link:
        return link.execute("select count(*) from kept").fetchone() == (0,)


def comes_back(url):
    for attempt in Retrying(stop=stop_after_delay(60), wait=wait_fixed(0.1)):
        with attempt:
            assert answers(url)


def test_a_server_that_is_killed_comes_back_at_the_same_address(folder):
    owner, guest = Cluster(folder), Cluster(folder)
    url = owner.start()
    try:
        assert guest.start() == url
        with psycopg.connect(url) as link:
            link.execute("create table kept (n int)")
        for _ in range(2):
            killed = postmaster_of(folder)
            os.kill(killed, signal.SIGKILL)
            comes_back(url)
            assert postmaster_of(folder) != killed
    finally:
        guest.stop()
        owner.stop()
    with pytest.raises(psycopg.OperationalError):
        psycopg.connect(url)


def test_who_joined_brings_it_back_where_who_started_it_was_killed(folder):
    owner = subprocess.Popen(
        [sys.executable, "-c", USES_IT, str(folder)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    url = owner.stdout.readline().strip()
    joined = Cluster(folder)
    assert joined.start() == url
    try:
        with psycopg.connect(url) as link:
            link.execute("create table kept (n int)")
        owner.kill()
        owner.wait()
        comes_back(url)
    finally:
        joined.stop()
        owner.stdin.close()
        owner.stdout.close()


def test_pages_find_the_server_again_after_it_was_killed(folder):
    kept, cluster = database.obj, Cluster(folder)
    url = cluster.start()
    try:
        bound = connect(url)
        migrate(bound, url)
        events = PostgresEventLog()
        assert events.last_id() == 0
        os.kill(postmaster_of(folder), signal.SIGKILL)
        for attempt in Retrying(
            retry=retry_if_exception_type(StoreUnavailableError),
            stop=stop_after_delay(60),
            wait=wait_fixed(0.1),
        ):
            with attempt:
                assert events.last_id() == 0
        bound.close_all()
    finally:
        database.initialize(kept)
        cluster.stop()


def test_the_server_is_of_the_version_that_the_data_are_of(folder):
    cluster = Cluster(folder)
    cluster.start()
    cluster.stop()
    version = folder / "postgres" / "PG_VERSION"
    was = version.read_text()
    version.write_text("9\n")
    with pytest.raises(MissingHereError, match=r"of PostgreSQL 9, .*apt-get install postgresql-9"):
        Cluster(folder).start()
    version.write_text(was)
    again = Cluster(folder)
    again.start()
    again.stop()


def test_data_are_kept_with_checksums(folder):
    cluster = Cluster(folder)
    url = cluster.start()
    try:
        with psycopg.connect(url) as link:
            assert link.execute("show data_checksums").fetchone() == ("on",)
    finally:
        cluster.stop()
