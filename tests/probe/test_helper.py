"""The helper: a closed list of verbs, for one user, and no path or command that is not checked."""

import json
import os
import pwd
import socket
import subprocess
import sys
import threading

import pytest

from haremile_probe.collect.privileged import ask_for_denied
from haremile_probe.collect.sources import Sources
from haremile_probe.helper.client import HelperRefused, ask
from haremile_probe.helper.serve import HelperServer, answer
from haremile_probe.helper.verbs import VERBS, Asker, VerbError, done, resident_pages
from haremile_probe.launching.start_condition import drop_caches, resident_share
from haremile_probe.wire import Fault

ME = Asker(os.geteuid())
STRANGER = Asker(54321)


@pytest.fixture
def root(tmp_path):
    """A small stand-in for a machine's files."""
    for path, text in {
        "proc/sys/vm/drop_caches": "",
        "sys/class/rtc/rtc0/wakealarm": "",
        "sys/power/state": "",
        "sys/class/power_supply/BAT0/energy_now": "41000000\n",
        "usr/bin/coppicer": "x" * 9000,
        "home/secret": "s",
        "sys/fs/cgroup/cgroup.controllers": "cpu memory\n",
    }.items():
        place = tmp_path / path
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_text(text)
    (tmp_path / "home/secret").chmod(0o600)
    (tmp_path / "home/link").symlink_to(tmp_path / "home/secret")
    return tmp_path


@pytest.mark.parametrize(
    ("verb", "facts", "says"),
    [
        ("sh", {}, "the helper does"),
        (None, {}, "the helper does"),
        ("residency", [], "does"),
        ("drop-caches", {"path": "/tmp/x"}, "not path"),
        ("residency", {"files": ["/etc/../etc/shadow"]}, "no path of a file"),
        ("residency", {"files": ["etc/passwd"]}, "no path of a file"),
        ("residency", {"files": ["/proc/kcore"]}, "no path of a file"),
        ("residency", {"files": ["/home/secret"]}, "no regular file that you may read"),
        ("residency", {"files": ["/home"]}, "no regular file"),
        ("residency", {"files": ["/none"]}, "No such file"),
        ("residency", {"files": ["/x"] * 501}, "at most 500"),
        ("boot-entry", {"entry": "--help"}, "no name of a boot entry"),
        ("boot-entry", {"entry": "a; reboot"}, "no name of a boot entry"),
        ("suspend", {"seconds": 5}, "seconds from"),
        ("suspend", {"seconds": True}, "seconds from"),
        ("suspend", {"seconds": "60"}, "seconds from"),
        ("restart", {"command": "sh"}, "nothing"),
        ("scope", {"do": "open", "pid": 1}, "is no process"),
        ("scope", {"do": "run", "pid": os.getpid()}, "opened, read or closed"),
        ("tree-walk", {"root": "/home"}, "nothing, not root"),
        ("kernel-log", {"path": "/etc/shadow"}, "nothing, not path"),
    ],
)
def test_whatever_is_not_on_the_list_is_refused(root, verb, facts, says):
    with pytest.raises(VerbError, match=says):
        done(verb, STRANGER, facts, str(root))


def test_a_link_to_what_may_not_be_read_is_not_followed(root):
    with pytest.raises(VerbError):
        done("residency", STRANGER, {"files": ["/home/link"]}, str(root))


def test_each_verb_does_the_one_thing(root):
    assert done("drop-caches", STRANGER, {}, str(root)) == {}
    assert (root / "proc/sys/vm/drop_caches").read_text() == "3"
    told = done("residency", STRANGER, {"files": ["/usr/bin/coppicer"]}, str(root))
    assert (told["pages"], told["resident"]) == (3, 3), "it was written just now"
    texts = done("energy", STRANGER, {}, str(root))["texts"]
    assert texts["energy"] == "/sys/class/power_supply/BAT0/energy_now: 41000000\n"
    assert done("suspend", STRANGER, {"seconds": 60}, str(root))["away_s"] >= 0
    assert (root / "sys/power/state").read_text() == "mem"
    assert "total" in done("tree-walk", STRANGER, {}, str(root))["texts"]["walk"]
    assert "pss" in done("process-memory", STRANGER, {}, "")["sums"]


def test_a_scope_takes_only_the_askers_own_process(root):
    (root / f"proc/{os.getpid()}").mkdir(parents=True)
    with pytest.raises(VerbError, match="is not yours"):
        done("scope", STRANGER, {"do": "open", "pid": os.getpid()}, str(root))
    done("scope", ME, {"do": "open", "pid": os.getpid()}, str(root))
    group = root / "sys/fs/cgroup/haremile" / str(os.getpid())
    assert (group / "cgroup.procs").read_text() == str(os.getpid())
    (group / "memory.current").write_text("4096\n")
    read = done("scope", ME, {"do": "read", "pid": os.getpid()}, str(root))
    assert read == {"now": 4096, "most": None}


def test_looking_at_what_is_resident_reads_nothing(tmp_path):
    cold = tmp_path / "cold"
    cold.write_bytes(b"x" * 2**20)
    with cold.open("rb") as file:
        os.fsync(file.fileno())
        os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
        first = resident_pages(file.fileno(), 2**20)
        assert resident_pages(file.fileno(), 2**20) == first
        file.read(4096)
        assert resident_pages(file.fileno(), 2**20) > first or first == 256


def test_proving_a_cold_start_without_a_helper_leaves_it_cold(tmp_path, monkeypatch):
    monkeypatch.setenv("HAREMILE_PROBE_HELPER", str(tmp_path / "no helper"))
    library = tmp_path / "library"
    library.write_bytes(b"x" * 2**23)
    with library.open("rb") as file:
        os.fsync(file.fileno())
        dropped = drop_caches([str(library)])
        left = resident_pages(file.fileno(), 2**23)
    assert dropped.how == "files"
    assert left == 0, "the look itself would have had some of it read"


@pytest.fixture
def helper(root, tmp_path, monkeypatch):
    """A helper for the present user, on a socket of its own."""
    path = str(tmp_path / "run" / "helper")
    server = HelperServer(pwd.getpwuid(os.geteuid()).pw_name, path, str(root))
    said = []
    thread = threading.Thread(target=_serving, args=(server, said))
    thread.start()
    monkeypatch.setenv("HAREMILE_PROBE_HELPER", path)
    yield server, path, said
    server._listener.shutdown(socket.SHUT_RDWR)
    thread.join(10)


def _serving(server, said):
    while True:  # as `serve` does, which also sets signals
        try:
            link, _ = server._listener.accept()
        except OSError:
            return
        with link:
            server._one(link, said.append)


def test_the_probe_asks_over_a_socket_of_one_user(helper):
    _, path, _ = helper
    assert os.stat(path).st_mode & 0o777 == 0o600
    assert ask("drop-caches") == {}
    with pytest.raises(HelperRefused, match="the helper does"):
        ask("sh", command="id")
    with pytest.raises(FileNotFoundError):
        ask("scope", do="close", pid=99999)


def test_another_user_is_refused(helper):
    server, _, said = helper
    server._allowed = (54321,)
    with pytest.raises(HelperRefused, match="not for you"):
        ask("drop-caches")
    assert said == [f"user {os.geteuid()} was refused"]


@pytest.mark.parametrize("text", [b"", b"{", b"[]", b'{"facts": {}}', b"[" * 60000])
def test_a_request_of_another_shape_is_answered(text):
    assert "refused" in answer(text, ME)


def test_without_a_helper_what_needs_it_is_named_as_denied(monkeypatch, tmp_path):
    monkeypatch.setenv("HAREMILE_PROBE_HELPER", str(tmp_path / "none"))
    with pytest.raises(PermissionError, match="no helper runs here"):
        ask("kernel-log")
    sources = Sources(str(tmp_path))
    sources.faults.append(Fault("denied", "kernel-log: /dev/kmsg"))
    ask_for_denied(sources, "kernel-log", "kernel-log")
    (fault,) = sources.faults
    assert fault.kind == "denied"
    assert "no helper runs here" in fault.what


def test_what_was_denied_is_had_from_the_helper(helper, root):
    (root / "dev").mkdir()
    os.mkfifo(root / "dev/kmsg")
    writer = os.open(root / "dev/kmsg", os.O_RDWR | os.O_NONBLOCK)
    os.write(writer, b"6,1,100,-;Linux version\n")
    sources = Sources(str(root))
    sources.faults.append(Fault("denied", "kernel-log: /dev/kmsg"))
    ask_for_denied(sources, "kernel-log", "kernel-log")
    os.close(writer)
    assert sources.faults == []
    assert "Linux version" in sources.records[-1].text


def test_a_cold_start_is_proved_by_the_helper(helper, root):
    assert resident_share(["/usr/bin/coppicer"]) == 1.0


def test_the_list_is_shown_and_only_root_serves(tmp_path):
    command = [sys.executable, "-m", "haremile_probe", "helper"]
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    done_ = subprocess.run(
        [*command, "list"], env=environment, capture_output=True, text=True, check=True
    )
    assert done_.stdout.split() == list(VERBS)
    if os.geteuid() != 0:
        refused = subprocess.run(
            [*command, "serve", "--for", "root"], env=environment, capture_output=True, check=False
        )
        assert refused.returncode == 1
        assert json.dumps("run it as root")[1:-1] in refused.stderr.decode()
