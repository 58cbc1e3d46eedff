"""This machine: what can be measured on the computer that the server runs on."""

import os
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from uuid import UUID

from haremile.core.records.procedures import BY_A_RIG, PROCEDURES
from haremile.errors import (
    BadInputError,
    NotMeasuredError,
)
from haremile.processes import child_command, child_environment
from haremile.rigs.answers import answer_to
from haremile.rigs.probe_words import probe_words
from haremile.usecases.ports import ReportPhase, RunOrder
from haremile_probe.wire import Capture, WireError, load_capture

BAD_INPUT = 2
SAID_LINES = 20


class LocalRig:
    """Runs the probe as a process of its own. It cannot boot the machine that it runs on.

    Parameters
    ----------
    archive : callable
        Gives the path of the probe's archive.
    """

    def __init__(self, archive: Callable[[], Path]):
        self._archive = archive
        self._at_work: dict[UUID, subprocess.Popen[bytes]] = {}

    @property
    def procedures(self) -> frozenset[str]:
        """What this rig can do."""
        return frozenset(key for key in BY_A_RIG if not PROCEDURES[key].restarts)

    def run(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        """Measure once."""
        if order.procedure not in self.procedures:
            able = ", ".join(sorted(self.procedures))
            raise BadInputError(f"on this machine {able} can be measured, not {order.procedure}")
        words = probe_words(order.procedure, order.conditions, order.install.recipe)
        command = [sys.executable, "-I", str(self._archive()), words[0], "--json", "--quiet"]
        names = ["--system", order.install.system.name]
        process = subprocess.Popen(
            child_command([*command, *names, *words[1:]]),
            cwd="/",
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            env=child_environment(),
            start_new_session=True,
        )
        self._at_work[order.run_id] = process
        report_phase("begun", 0.0)
        try:
            out, errors = process.communicate()
        finally:
            self._at_work.pop(order.run_id, None)
        return answer_to(order, _read(process.returncode, out, errors), {"switching": "none"})

    def interrupt(self, run_id: UUID | None = None) -> None:
        """End the probe of this run, or all that work now, with what they started."""
        for key, process in list(self._at_work.items()):
            if run_id in (None, key) and process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)


def _read(code: int, out: bytes, errors: bytes) -> Capture:
    said = "\n".join(errors.decode("utf-8", "replace").splitlines()[-SAID_LINES:])
    if code == BAD_INPUT:
        raise BadInputError(said or "the probe did not understand its arguments")
    try:
        return load_capture(out)
    except WireError:
        ended = f"the probe was ended by signal {-code}" if code < 0 else "the probe gave nothing"
        raise NotMeasuredError(said or ended, said) from None
