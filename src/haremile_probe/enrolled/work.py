"""The loop of an enrolled machine: hand in, ask, do."""

import json
import os
import signal
import subprocess
import sys
import threading
from typing import Any, Callable, Dict, List, Optional

from haremile_probe import VERSION
from haremile_probe.enrolled import outbox
from haremile_probe.enrolled.applications import FILE, MEASURES, command_for
from haremile_probe.enrolled.enrolment import ARCHIVE, RESTARTS, Enrolment, home_folder
from haremile_probe.enrolled.restart import choose_next, restart
from haremile_probe.enrolled.server import Server, ServerAway, ServerRefused
from haremile_probe.helper.client import HelperRefused, ask
from haremile_probe.jobs import COMMAND, JobError, load_job, words_of
from haremile_probe.runtime import BadInput, MissingHere, new_id, now_text
from haremile_probe.wire import (
    NOT_MEASURED,
    REFUSED,
    Capture,
    Evidence,
    Ticket,
    WireError,
    load_capture,
)

LONGEST_PAUSE_S = 60.0
SIGN_S = 10.0
"""While something runs, a sign of life is given so often."""

BOOTED_S = 300.0
"""How long the system may take to say that its boot is complete."""


def job_words(document: Any) -> List[str]:
    """The probe's arguments for what a server asks; an application is what this machine's own list
    says. Raises JobError for anything else."""
    job = load_job(document)
    if job.app is None:
        return words_of(job)
    is_own = job.procedure == COMMAND
    command = command_for(job.app, MEASURES if is_own else FILE)
    if command is None:
        what, way = ("command for", "allow --measure") if is_own else ("application", "allow")
        raise JobError(
            "this machine allows no %s %s; allow it there: haremile-probe %s '%s=COMMAND'"
            % (what, job.app, way, job.app)
        )
    return words_of(job, command)


def _choose(entry: str) -> str:
    """Choose the next boot's entry, through the helper where we are not root ourselves."""
    if os.geteuid() == 0:
        return choose_next(entry)
    try:
        return str(ask("boot-entry", entry=entry)["by"])
    except PermissionError:
        return choose_next(entry)  # this machine may let its user choose without


def _restart(command: List[str]) -> None:
    """Boot anew, through the helper where there is one and no other way was stated."""
    if os.geteuid() != 0 and command in [list(words) for words in RESTARTS]:
        try:
            ask("restart")
            return
        except PermissionError:
            pass  # no helper: a session's user may often restart the machine
    restart(command)


class Worker:
    """Works for the server until it is told to end."""

    def __init__(self, enrolment: Enrolment, say: Callable[[str], None]):
        self._enrolment, self._say = enrolment, say
        self._server = Server(enrolment.address, enrolment.secret, enrolment.pin)
        self._ended = threading.Event()
        self._held: List[Capture] = []
        self._child: Optional["subprocess.Popen[str]"] = None

    def work(self) -> None:
        """Until a signal ends it; a last sign tells the server then."""
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._end)
        pause_s = self._enrolment.pause_s
        while not self._ended.is_set():
            try:
                outbox.hand_in(self._server, self._say, self._held)
                step = self._sign()
            except ServerAway as error:
                self._say("the server is away (%s); next try in %.1f s" % (error, pause_s))
                self._ended.wait(pause_s)
                pause_s = min(pause_s * 2.0, LONGEST_PAUSE_S)
                continue
            except ServerRefused as error:
                if error.status in (403, 404):  # this machine is not wanted: a person is
                    raise
                self._say("the server refused: %s" % error)
                self._ended.wait(LONGEST_PAUSE_S)
                continue
            pause_s = self._enrolment.pause_s
            self._do(step)
        self._last_sign()

    def _end(self, _number: int, _frame: Any) -> None:
        self._ended.set()
        if self._child is not None:
            self._child.terminate()

    def _sign(self, busy: Optional[str] = None, **more: Any) -> Dict[str, Any]:
        return self._server.ask(
            "/api/rigs/step",
            identity=self._enrolment.identity,
            boot_id=self._boot_id(),
            probe=VERSION,
            busy=busy,
            **more,
        )

    def _last_sign(self) -> None:
        try:
            self._sign(is_leaving=True)
        except (ServerAway, ServerRefused):
            pass  # the machine goes down whether or not it is heard

    def _boot_id(self) -> str:
        with open(self._enrolment.boot_id, encoding="utf-8") as file:
            return file.read().strip()

    def _do(self, step: Dict[str, Any]) -> None:
        what = step.get("do")
        if what == "run":
            capture = self._measured(step)
            if capture is not None:
                self._keep(capture)
        elif what == "restart":
            self._restart(step)
        else:
            if step.get("says"):
                self._say(step["says"])
            self._ended.wait(float(step.get("seconds", self._enrolment.pause_s)))

    def _keep(self, capture: Capture) -> None:
        """On disk, or in memory until the server has it where the disk takes nothing."""
        try:
            outbox.keep(capture)
        except OSError as error:
            self._say("the outbox takes nothing (%s): held until handed in" % error.strerror)
            self._held.append(capture)

    def _restart(self, step: Dict[str, Any]) -> None:
        try:
            if step.get("entry"):
                entry = str(step["entry"])
                self._say("next boot: %s, by %s" % (entry, _choose(entry)))
            self._say("restarting")
            _restart(self._enrolment.restart)
        except (MissingHere, OSError, HelperRefused) as error:
            self._keep(self._failed(step, str(error)))
            return
        self._ended.wait(SIGN_S)  # the machine takes a moment to end this program

    def _measured(self, step: Dict[str, Any]) -> Optional[Capture]:
        """Run the probe's verb; None where the server wants it no more, or all ends."""
        try:
            words = job_words(step.get("job"))
        except (JobError, BadInput) as error:
            return self._failed(step, str(error), REFUSED)
        if words[0] == "boot":
            self._wait_until_booted()
        self._say("running: %s" % " ".join(words))
        names = ["--machine", self._enrolment.machine, "--system", self._enrolment.system]
        program = [sys.executable, "-I", os.path.join(home_folder(), ARCHIVE)]
        self._child = subprocess.Popen(
            [*program, words[0], "--json", "--quiet", *names, *words[1:]],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            cwd=home_folder(),
        )
        out, errors = self._attended(self._child, str(step["run"]))
        self._child = None
        if self._ended.is_set() or out is None:
            return None
        try:
            capture = load_capture(out.encode())
        except WireError:
            said = errors.strip() or "it said nothing"
            return self._failed(step, "the probe gave no capture: %s" % said[-500:])
        capture.ticket = Ticket(str(step["run"]), int(step["attempt"]))
        return capture

    def _attended(self, child: "subprocess.Popen[str]", run: str) -> Any:
        """What the child says, with signs of life while it works; (None, …) where it was ended."""
        while True:
            try:
                return child.communicate(timeout=SIGN_S)
            except subprocess.TimeoutExpired:
                pass
            try:
                answer = self._sign(busy=run)
            except (ServerAway, ServerRefused):
                continue  # it is measured all the same, and kept
            if answer.get("do") == "end":
                self._say("not wanted any more")
                child.terminate()
                child.communicate()
                return None, ""

    def _wait_until_booted(self) -> None:
        if not os.path.isdir("/run/systemd/system"):
            return
        self._say("waiting until the boot is complete")
        try:  # its exit code tells how well, which the boot's record tells too
            subprocess.run(
                ["systemctl", "is-system-running", "--wait"],
                capture_output=True,
                check=False,
                timeout=BOOTED_S,
            )
        except subprocess.TimeoutExpired:
            self._say("the boot was not complete within %.0f s" % BOOTED_S)

    def _failed(
        self, step: Dict[str, Any], reason: str, kind: str = "could not measure"
    ) -> Capture:
        return Capture(
            id=new_id(),
            made_at=now_text(),
            probe=VERSION,
            asked=str(step["procedure"]),
            machine=self._enrolment.machine,
            system=self._enrolment.system,
            outcome=NOT_MEASURED,
            reason="%s: %s" % (kind, reason),
            ticket=Ticket(str(step["run"]), int(step["attempt"])),
            evidence=[Evidence("step", json.dumps(step, sort_keys=True))],
        )
