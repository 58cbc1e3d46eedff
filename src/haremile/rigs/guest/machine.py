"""One QEMU process: paused start, channels, power-on at a known instant, clean end."""

import asyncio
import os
import shutil
import socket
import subprocess
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from types import TracebackType
from typing import Any

from qemu.qmp import QMPError
from qemu.qmp.legacy import QEMUMonitorProtocol

from haremile.errors import (
    BadInputError,
    GuestDiedError,
    GuestHungError,
    MissingHereError,
    NoSpaceError,
)
from haremile.processes import child_command, child_environment
from haremile.rigs.guest.channel import Channel
from haremile.rigs.guest.spec import DISK, PROGRAM, GuestSpec, uefi_files

CONNECT_S = 15.0
OVERLAYS = Path("/var/tmp")
"""Where QEMU keeps disk changes that are thrown away; on a disk, not in memory as /tmp may be."""

OWNS_NOTHING = 62642
"""A user and group that have no name and own no file, from the range that systemd hands out for
passing use."""

KVM = Path("/dev/kvm")
MIB = 2**20
OVERLAY_MIB = 512
"""So much room there must be for them."""


class GuestMachine:
    """A started but paused guest; use as a context manager, which leaves nothing behind."""

    def __init__(self, spec: GuestSpec):
        if shutil.which(PROGRAM) is None:
            raise MissingHereError(f"{PROGRAM} is not on this machine; run ./haremile to set up")
        self.spec = spec
        self.power_on_at = 0.0
        _check_room(spec)
        user = emulator_user(spec)
        if user is not None:
            _check_readable(spec, user)
        self._folder = Path(tempfile.mkdtemp(prefix="hm-guest-", dir="/tmp"))
        self._output = (self._folder / "output").open("wb")
        if spec.firmware == "uefi" and not spec.variables(self._folder).exists():
            shutil.copyfile(uefi_files()[1], spec.variables(self._folder))
        if (empty := spec.empty_disk(self._folder)) is not None and spec.disk_mib is not None:
            with empty.open("wb") as file:
                file.truncate(spec.disk_mib * MIB)
        self.forwarded = _free_port() if spec.forward else 0
        if user is not None:
            _hand_over(spec, self._folder, user)
        command = spec.command(self._folder, self.forwarded)
        self._process = subprocess.Popen(
            child_command(command, user=user, groups=_groups(spec)),
            stdin=subprocess.DEVNULL,
            stdout=self._output,
            stderr=subprocess.STDOUT,
            env={**child_environment(), "TMPDIR": str(OVERLAYS)},
        )
        self._channels: list[Channel] = []
        # the monitor's client wants an event loop of its own, so it lives in a thread of its own
        self._control = ThreadPoolExecutor(1, thread_name_prefix="guest-monitor")
        self._monitor: QEMUMonitorProtocol | None = None
        try:
            self._open()
        except BaseException:
            self.close()
            raise

    @property
    def pid(self) -> int:
        """Process id of the emulator."""
        return self._process.pid

    def _open(self) -> None:
        deadline = time.monotonic() + CONNECT_S
        try:
            self.serial = self._channel("serial", deadline)
            self.firmware = self._channel("firmware", deadline)
            self.port = self._channel("port", deadline)
            self._control.submit(self._connect).result()
            if self.spec.disk is not None and self.spec.disk_mib is not None:
                self._control.submit(self._grow, self.spec.disk, self.spec.disk_mib * MIB).result()
        except (GuestDiedError, QMPError, OSError) as error:
            said = self.output().strip() or str(error)
            raise GuestDiedError(f"QEMU did not start: {said}", self.output()) from error

    def _connect(self) -> None:
        self._monitor = QEMUMonitorProtocol(str(self._folder / "qmp"))
        self._monitor.connect()

    def _grow(self, disk: Path, size: int) -> None:
        assert self._monitor is not None
        every: Any = self._monitor.cmd("query-block")
        shown = next(one["inserted"]["image"] for one in every if one["device"] == DISK)
        now = int(shown["virtual-size"])
        if now > size:
            raise BadInputError(
                f"{disk.name} is a disk of {now // MIB} MiB, larger than the {size // MIB} MiB of "
                "the machine's profile; nothing was started"
            )
        if now < size:
            self._monitor.cmd("block_resize", device=DISK, size=size)

    def _disconnect(self) -> None:
        if self._monitor is None:
            return
        try:
            self._monitor.close()
        except (QMPError, OSError, EOFError):
            pass  # the monitor went down with the guest, which is what was wanted
        self._monitor = None
        asyncio.get_event_loop().close()

    def _channel(self, name: str, deadline: float) -> Channel:
        path = self._folder / name
        channel = Channel(name, path, deadline, lambda: not self.is_running)
        self._channels.append(channel)
        return channel

    def power_on(self) -> float:
        """Let the guest run; return the instant (monotonic seconds)."""
        self._control.submit(self._continue).result()
        return self.power_on_at

    def _continue(self) -> None:
        if self._monitor is None:
            raise GuestDiedError("the guest is closed")
        self.power_on_at = time.monotonic()
        self._monitor.cmd("cont")

    def wait_off(self, seconds: float) -> float:
        """Wait for the guest to power itself off; return seconds since power-on."""
        try:
            self._process.wait(seconds)
        except subprocess.TimeoutExpired as error:
            raise GuestHungError(f"the guest did not power off within {seconds:g} s") from error
        return time.monotonic() - self.power_on_at

    @property
    def is_running(self) -> bool:
        """Whether the process is there."""
        return self._process.poll() is None

    def frame(self) -> bytes:
        """The present picture of its screen, PPM."""
        return self._dump("ppm")

    def picture(self) -> bytes:
        """The present picture of its screen, PNG."""
        return self._dump("png")

    def _dump(self, kind: str) -> bytes:
        path = self._folder / f"screen.{kind}"
        self._ask("screendump", filename=str(path), format=kind)
        return path.read_bytes()

    def press_power(self) -> None:
        """Press the power button, as a person does who wants it to shut down."""
        self._ask("system_powerdown")

    def check_room(self) -> None:
        """Raises NoSpaceError where the guest stands still because its disk could not grow."""
        if self.is_running and self._ask("query-status").get("status") == "io-error":
            raise NoSpaceError(f"its disk changes found no room in {OVERLAYS}")

    def _ask(self, command: str, **arguments: str) -> dict[str, object]:
        def asked() -> dict[str, object]:
            if self._monitor is None:
                raise GuestDiedError("the guest is closed")
            answer = self._monitor.cmd(command, **arguments)
            return dict(answer) if isinstance(answer, dict) else {}

        try:
            return self._control.submit(asked).result()
        except (QMPError, OSError, EOFError) as error:
            raise GuestDiedError(f"the guest's monitor is gone: {error}") from error

    def output(self) -> str:
        """What QEMU itself wrote."""
        return (self._folder / "output").read_text(errors="replace")

    def kill(self) -> None:
        """End the process at once; what waits on its channels learns of it."""
        if self._process.poll() is None:
            self._process.kill()

    def close(self) -> None:
        """End the process if it still runs, and remove its folder."""
        self.kill()
        self._process.wait()
        try:
            self._control.submit(self._disconnect).result()
        finally:
            self._control.shutdown()
            for channel in self._channels:
                channel.close()
            self._output.close()
            shutil.rmtree(self._folder, ignore_errors=True)

    def __enter__(self) -> "GuestMachine":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()


def emulator_user(spec: GuestSpec) -> int | None:
    """As whom the emulator runs where we are root: as the owner of a disk whose changes are kept,
    else as a user that owns nothing. None where we are an ordinary user.

    Raises
    ------
    MissingHereError
        If such a disk belongs to root: the emulator never runs as root.
    """
    if os.geteuid() != 0:
        return None
    if not spec.keeps_changes or spec.disk is None:
        return OWNS_NOTHING
    owner = spec.disk.stat().st_uid
    if owner == 0:
        raise MissingHereError(
            f"the changes of {spec.disk} are to be kept, but it belongs to root, as whom no guest "
            f"runs; give it to a user: chown USER {spec.disk}"
        )
    return owner


def _groups(spec: GuestSpec) -> tuple[int, ...]:
    """The group that may use KVM, where it is used."""
    return (KVM.stat().st_gid,) if spec.accelerator == "kvm" and KVM.exists() else ()


def _hand_over(spec: GuestSpec, folder: Path, user: int) -> None:
    """Let the emulator's user into its folder."""
    for path in (folder, *folder.iterdir()):
        os.chown(path, user, user)
    if spec.keeps_changes and spec.firmware == "uefi":
        os.chown(spec.variables(folder), user, user)


def _check_readable(spec: GuestSpec, user: int) -> None:
    """Raises MissingHereError where the emulator's user cannot read what it is to boot."""
    for file in (spec.kernel, spec.initrd, spec.disk, spec.live, spec.tools):
        if file is not None and not _may_read(file, user):
            raise MissingHereError(
                f"{file} cannot be read by others, and no guest runs as root; "
                f"let them: chmod o+r {file} (and o+x its folders)"
            )


def _may_read(path: Path, user: int) -> bool:
    """Whether a user without groups may read a file, by the rights of it and of its folders."""
    resolved = path.resolve()
    for folder in resolved.parents:
        status = folder.stat()
        if not status.st_mode & (0o100 if status.st_uid == user else 0o001):
            return False
    status = resolved.stat()
    return bool(status.st_mode & (0o400 if status.st_uid == user else 0o004))


def _check_room(spec: GuestSpec) -> None:
    if spec.disk is None or spec.keeps_changes:
        return
    free_mib = shutil.disk_usage(OVERLAYS).free // 2**20
    if free_mib < OVERLAY_MIB:
        raise NoSpaceError(
            f"{free_mib} MiB are free in {OVERLAYS}, where disk changes go; "
            f"{OVERLAY_MIB} are wanted"
        )


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port
