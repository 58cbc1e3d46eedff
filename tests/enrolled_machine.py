"""An enrolled machine for tests: the real probe as a process of its own, with a stand-in for the
computer that starts it again after each restart."""

import os
import subprocess
import sys
import threading
from contextlib import contextmanager
from uuid import uuid4

from haremile.formats.probe_archive import NAME, read_probe_archive
from haremile.processes import child_command

RESTART = "sh -c 'kill -TERM $PPID'"


class EnrolledMachine:
    """One install of a machine: its folder, its boots, and the probe that works in it."""

    def __init__(self, folder, address, key, system, network=(), more=()):
        self.folder, self.network = folder, list(network)
        folder.mkdir()
        self.boot_id = folder / "boot-id"
        self.archive = folder / NAME
        self.archive.write_bytes(read_probe_archive())
        self.boots, self.process, self.off = 0, None, threading.Event()
        self._name_boot()
        self.run(
            "enrol",
            address,
            "--system",
            system,
            "--come-back",
            "none",
            "--restart",
            RESTART,
            "--boot-id",
            str(self.boot_id),
            "--pause",
            "0.05",
            "--and-leave-it",
            *more,
            said=key,
        )

    @property
    def environment(self):
        home = {"HOME": str(self.folder), "HAREMILE_PROBE_HOME": str(self.folder / "probe")}
        return {**os.environ, **home}

    def command(self, *words):
        return [*self.network, sys.executable, "-I", str(self.archive), *words]

    def run(self, *words, said=""):
        done = subprocess.run(
            self.command(*words),
            env=self.environment,
            capture_output=True,
            text=True,
            check=False,
            input=said,
        )
        assert done.returncode == 0, done.stderr
        return done.stdout

    def _name_boot(self):
        self.boots += 1
        self.boot_id.write_text(f"{uuid4()}\n")

    def start(self):
        """Switch it on; the process of this boot."""
        self.process = subprocess.Popen(
            child_command(self.command("work")),
            env=self.environment,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
        )
        return self.process

    def live(self):
        """Start again after each restart, until it is switched off."""
        while not self.off.is_set():
            said = self.start().communicate()[1]
            assert "Traceback" not in said, said
            self._name_boot()

    def outbox(self):
        return sorted((self.folder / "probe" / "outbox").glob("*.json"))


@contextmanager
def alive(machine):
    """The machine is on while the block runs."""
    thread = threading.Thread(target=machine.live)
    thread.start()
    try:
        yield machine
    finally:
        machine.off.set()
        while thread.is_alive():
            machine.process.terminate()
            thread.join(0.2)
