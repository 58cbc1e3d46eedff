"""One QEMU process: paused start, channels, power-on at a known instant, clean end."""

import asyncio
import shutil
import subprocess
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType

from qemu.qmp import QMPError
from qemu.qmp.legacy import QEMUMonitorProtocol

from haremile.errors import GuestDiedError, GuestHungError, MissingHereError
from haremile.processes import child_command, child_environment
from haremile.rigs.guest.channel import Channel
from haremile_probe.wire import PORT_NAME

PROGRAM = "qemu-system-x86_64"
CONNECT_S = 15.0
ACCELERATORS = {
    ("tcg", "host"): ["-accel", "tcg,thread=multi"],
    ("kvm", "host"): ["-accel", "kvm", "-cpu", "host"],
    ("tcg", "counted"): [
        "-accel", "tcg", "-icount", "shift=2,sleep=off", "-rtc", "base=2026-01-01,clock=vm",
    ],
}  # fmt: skip


@dataclass(frozen=True)
class GuestSpec:
    """What the virtual machine is made of."""

    kernel: Path
    initrd: Path
    accelerator: str
    clock: str = "host"
    memory_mib: int = 256
    cores: int = 1
    append: str = ""

    def command(self, folder: Path) -> list[str]:
        """The argument list; sockets lie in `folder`."""
        arguments = [
            PROGRAM, "-nodefaults", "-no-user-config", "-machine", "pc", "-display", "none", "-S",
            "-no-reboot", *ACCELERATORS[(self.accelerator, self.clock)],
            "-m", str(self.memory_mib), "-smp", str(self.cores),
            "-kernel", str(self.kernel), "-initrd", str(self.initrd),
            "-append", f"console=ttyS0 quiet panic=-1 {self.append}".strip(),
            *_socket("qmp", folder), "-mon", "chardev=qmp,mode=control",
            *_socket("serial", folder), "-serial", "chardev:serial",
            *_socket("firmware", folder), "-device", "isa-debugcon,iobase=0x402,chardev=firmware",
            "-device", "virtio-serial-pci",
            *_socket("port", folder),
            "-device", f"virtserialport,chardev=port,name={PORT_NAME}",
        ]  # fmt: skip
        return arguments


def _socket(name: str, folder: Path) -> list[str]:
    path = str(folder / name).replace(",", ",,")
    return ["-chardev", f"socket,id={name},path={path},server=on,wait=off"]


class GuestMachine:
    """A started but paused guest; use as a context manager, which leaves nothing behind."""

    def __init__(self, spec: GuestSpec):
        if shutil.which(PROGRAM) is None:
            raise MissingHereError(f"{PROGRAM} is not on this machine; run ./haremile to set up")
        self.spec = spec
        self.power_on_at = 0.0
        self._folder = Path(tempfile.mkdtemp(prefix="hm-guest-", dir="/tmp"))
        self._output = (self._folder / "output").open("wb")
        self._process = subprocess.Popen(
            child_command(spec.command(self._folder)), stdin=subprocess.DEVNULL,
            stdout=self._output, stderr=subprocess.STDOUT, env=child_environment(),
        )  # fmt: skip
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
        except (GuestDiedError, QMPError, OSError) as error:
            raise GuestDiedError(f"QEMU did not start: {error}", self.output()) from error

    def _connect(self) -> None:
        self._monitor = QEMUMonitorProtocol(str(self._folder / "qmp"))
        self._monitor.connect()

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
        channel = Channel(name, self._folder / name, deadline)
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
