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

from haremile.store.cluster import Cluster


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
