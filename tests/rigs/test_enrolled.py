"""The real probe, as its own process, working for a real server."""

import hashlib
import json
import os
import shutil
import subprocess
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest

from enrolled_machine import EnrolledMachine, alive
from haremile.api.guard import Access
from haremile.certificate import own_certificate
from haremile.core.records.study import Install, Machine, RunState, System
from haremile.formats.probe_archive import enrol_line, read_probe_archive
from haremile.usecases.plan import checked_plan
from haremile_probe.wire import load_capture
from helpers import order_of, served

IDLE = {"probe.idle": "--window 0.5 --limit 30"}


LINK = "10.213.77"


@pytest.fixture
def own_network():
    """The server's address as the machine sees it, and what a program of the machine begins with:
    a network of its own, where this machine lets us make one."""
    name, here, there = f"hm{os.getpid()}", f"hmh{os.getpid()}", f"hmt{os.getpid()}"
    inside = ["ip", "netns", "exec", name]
    steps = [
        ["ip", "netns", "add", name],
        ["ip", "link", "add", here, "type", "veth", "peer", "name", there],
        ["ip", "link", "set", there, "netns", name],
        ["ip", "addr", "add", f"{LINK}.1/24", "dev", here],
        ["ip", "link", "set", here, "up"],
        [*inside, "ip", "addr", "add", f"{LINK}.2/24", "dev", there],
        [*inside, "ip", "link", "set", there, "up"],
    ]
    can = os.geteuid() == 0 and shutil.which("ip") is not None
    if can and all(
        subprocess.run(s, capture_output=True, check=False).returncode == 0 for s in steps
    ):
        yield f"{LINK}.1", inside
    else:
        yield "127.0.0.1", []
    if can:
        for undo in (["ip", "link", "del", here], ["ip", "netns", "del", name]):
            subprocess.run(undo, capture_output=True, check=False)


@pytest.fixture(autouse=True)
def quick(monkeypatch):
    monkeypatch.setattr("haremile.usecases.enrolled.IDLE_S", 0.1)


def enrolled(bench, address, folder, names=("Varrow 12",), network=(), more=(), **recipe):
    """The machine *Laptop* with these installs, each a folder of its own."""
    bench.library.ensure(Install(System(names[0]), Machine("Laptop")))
    key = bench.machines.new_key("Laptop")
    made = [
        EnrolledMachine(folder / name.split()[0], address, key, name, network, more)
        for name in names
    ]
    for install in bench.library.installs():
        bench.library.ensure(
            Install(install.system, install.machine, rig="enrolled", recipe={**IDLE, **recipe})
        )
    return made


def study_of(bench, procedures, blocks):
    """The laptop's install against itself after updates, so that one machine serves both."""
    (install,) = [i for i in bench.library.installs() if i.machine.name == "Laptop"]
    other = Install(
        System("Stand-in"),
        Machine("Aside", "simulated"),
        rig="simulated",
        recipe={"truth": next(iter(TRUTHS))},
    )
    plan = checked_plan("Which?", [install, other], blocks, seed=5, procedures=procedures)
    return bench.studies.create(plan)


TRUTHS = ("One-gig guest/Varrow 12 Tarnwick",)


def own_runs(bench, study):
    return [run for run in bench.studies.runs(study.id) if run.lane_no == 1]


def test_a_real_probe_boots_anew_measures_and_hands_in(bench, throwaway_url, tmp_path, own_network):
    host, network = own_network
    access = Access(frozenset({host}))
    with served(bench, throwaway_url, host=host, access=access) as address:
        (machine,) = enrolled(bench, address, tmp_path, network=network)
        study = study_of(bench, ["boot", "idle"], 2)
        with alive(machine):
            assert bench.conductor.conduct(study.id)
    runs = own_runs(bench, study)
    assert {run.state for run in runs} <= {RunState.DONE, RunState.FAILED}
    assert machine.boots >= 3, "it restarted for each boot"
    idle = [run for run in runs if run.procedure == "idle"]
    assert [run.state for run in idle] == [RunState.DONE] * 2
    values = [r for r in bench.readings.readings(study.id, "memory.used") if r.lane_no == 1]
    assert len(values) == 2
    assert all(item.value > 0 and item.conditions["switching"] == "none" for item in values)
    boot = next(run for run in runs if run.procedure == "boot")
    capture = load_capture(bench.readings.capture_of_run(boot.id).body)
    outside = json.loads(capture.text_of("outside"))
    assert outside["ordered"] <= outside["last_sign"] < outside["first_sign"] <= outside["begun"]
    totals = [r for r in capture.readings if (r.metric, r.method) == ("boot.total", "host-marker")]
    assert len(totals) == (capture.outcome == "done")
    assert machine.outbox() == []


def test_captures_are_kept_while_the_server_is_away(bench, throwaway_url, tmp_path):
    with served(bench, throwaway_url) as address:
        (machine,) = enrolled(bench, address, tmp_path)
        study = study_of(bench, ["idle"], 1)
        order = next_own(bench, study)
        bench.machines.put(order)
        process = machine.start()
        wait_for(process, "running: idle")
    wait_for(process, "the server is away")
    assert len(machine.outbox()) == 1
    with served(bench, throwaway_url, port=int(address.rpartition(":")[2])):
        wait_for(process, "taken")
        process.terminate()
        process.communicate()
    assert machine.outbox() == []
    assert bench.machines.job(order.run_id, order.attempt).body is not None


def next_own(bench, study):
    while True:
        lease = bench.queue.lease_next(study.id)
        if lease.run.lane_no == 1:
            bench.queue.begin(lease)
            return order_of(lease)


def wait_for(process, text):
    for line in process.stderr:
        if text in line:
            return
    pytest.fail(f"the probe ended and never said: {text}")


def test_an_unknown_key_is_refused_in_words(bench, throwaway_url, tmp_path):
    with served(bench, throwaway_url) as address:
        (machine,) = enrolled(bench, address, tmp_path)
        bench.machines.revoke_keys("Laptop")
        done = subprocess.run(
            machine.command("work"),
            env=machine.environment,
            capture_output=True,
            text=True,
            check=False,
        )
    assert done.returncode == 1
    assert "not known here, or was revoked" in done.stderr


def test_leaving_removes_everything_but_never_a_capture_unasked(bench, throwaway_url, tmp_path):
    with served(bench, throwaway_url) as address:
        (machine,) = enrolled(bench, address, tmp_path)
    home = machine.folder / "probe"
    waiting = home / "outbox" / "1.json"
    waiting.write_text("{}")
    done = subprocess.run(
        machine.command("leave"),
        env=machine.environment,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 1
    assert "1 captures wait for the server" in done.stderr
    assert waiting.exists()
    waiting.unlink()
    assert str(home) in machine.run("leave")
    assert not home.exists()


def test_a_launch_is_what_the_machines_own_list_says_whatever_the_server_asks(
    bench, throwaway_url, tmp_path
):
    mark = tmp_path / "attacked"
    with served(bench, throwaway_url) as address:
        (machine,) = enrolled(bench, address, tmp_path)
        study = study_of(bench, [f"launch:touch {mark}"], 1)
        bench.machines.put(next_own(bench, study))
        process = machine.start()
        wait_for(process, "taken")
        process.terminate()
        process.communicate()
    assert not mark.exists()
    job = bench.machines.job(*_first_own(bench, study))
    capture = load_capture(job.body)
    assert capture.outcome == "could-not-measure"
    assert "allows no application" in capture.reason


def _first_own(bench, study):
    return own_runs(bench, study)[0].id, 1


def test_a_machine_speaks_with_the_server_it_enrolled_with_and_no_other(
    bench, throwaway_url, tmp_path
):
    kept = own_certificate(tmp_path / "one", ["127.0.0.1"])
    other = own_certificate(tmp_path / "other", ["127.0.0.1"])
    with served(bench, throwaway_url, secured=kept.files) as address:
        (machine,) = enrolled(bench, address, tmp_path, more=["--pin", kept.pin])
        assert "https" in (machine.folder / "probe" / "enrolment.json").read_text()
        process = machine.start()
        wait_for_sign(bench)
        process.terminate()
        process.communicate()
    port = int(address.rpartition(":")[2])
    with served(bench, throwaway_url, secured=other.files, port=port):
        process = machine.start()
        wait_for(process, "another server answers there")
        process.terminate()
        process.communicate()


def wait_for_sign(bench):
    while not bench.machines.signs():
        pass


class Middle(BaseHTTPRequestHandler):
    """Somebody in the middle who answers in the server's place."""

    def do_POST(self):
        self.rfile.read(int(self.headers["Content-Length"]))
        said = json.dumps({"do": "restart", "entry": "Boot0666", "detail": "go away"}).encode()
        self.send_response(self.server.status)
        self.send_header("Content-Length", str(len(said)))
        self.send_header("Haremile-Mac", "0" * 64)
        self.end_headers()
        self.wfile.write(said)

    def log_message(self, *words):
        pass


@pytest.mark.parametrize("status", [200, 401, 403, 404])
def test_who_cannot_sign_orders_nothing_and_dismisses_nobody(
    bench, throwaway_url, tmp_path, status
):
    with served(bench, throwaway_url) as address:
        (machine,) = enrolled(bench, address, tmp_path)
    middle = HTTPServer(("127.0.0.1", int(address.rpartition(":")[2])), Middle)
    middle.status = status
    thread = threading.Thread(target=middle.serve_forever, daemon=True)
    thread.start()
    try:
        process = machine.start()
        wait_for(process, "is not signed, so nothing is made of it")
        assert process.poll() is None, "it goes on, and asks again later"
        process.terminate()
        said = process.communicate()[1]
    finally:
        middle.shutdown()
        middle.server_close()
        thread.join()
    assert "restarting" not in said


def test_the_line_to_paste_proves_the_archive(bench):
    line = enrol_line("https://10.0.0.7:8642/", "ab" * 32)
    digest = hashlib.sha256(read_probe_archive()).hexdigest()
    assert f"echo '{digest}  haremile-probe.pyz' | sha256sum -c" in line
    assert f"enrol https://10.0.0.7:8642 --pin {'ab' * 32}" in line
    assert "--key" not in line
