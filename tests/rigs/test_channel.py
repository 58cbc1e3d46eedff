import socket
import time
from pathlib import Path

import pytest

from haremile.errors import BadInputError, GuestDiedError, GuestHungError, GuestPanickedError
from haremile.rigs.guest.channel import Channel
from haremile.rigs.guest.spec import GuestSpec


@pytest.fixture
def ends(tmp_path):
    """A channel and the guest's end of it."""
    path = tmp_path / "serial"
    with socket.socket(socket.AF_UNIX) as listener:
        listener.bind(str(path))
        listener.listen()
        channel = Channel("serial", path, time.monotonic() + 5)
        guest, _ = listener.accept()
        with guest:
            yield channel, guest
        channel.close()


def soon():
    return time.monotonic() + 5


def test_lines_come_whole_in_order_and_stamped(ends):
    channel, guest = ends
    guest.sendall(b"HM-MARK user")
    guest.sendall(b"space 2.27\r\nHM-MARK ready 2.29\n")
    follow = channel.follow(soon())
    first, second = next(follow), next(follow)
    assert (first.text, second.text) == ("HM-MARK userspace 2.27", "HM-MARK ready 2.29")
    assert first.at <= second.at <= time.monotonic()
    assert channel.text() == "HM-MARK userspace 2.27\nHM-MARK ready 2.29"


def test_bytes_that_are_no_text_do_not_stop_it(ends):
    channel, guest = ends
    guest.sendall(b"\xff\xfe\x00ok\n")
    assert next(channel.follow(soon())).text.endswith("ok")


def test_a_panic_is_told_from_its_line(ends):
    channel, guest = ends
    guest.sendall(b"[ 2.3] Kernel panic - not syncing: No working init found.\n")
    with pytest.raises(GuestPanickedError, match="No working init"):
        next(channel.follow(soon()))


def test_silence_ends_at_the_deadline(ends):
    channel, _ = ends
    with pytest.raises(GuestHungError, match="serial"):
        next(channel.follow(time.monotonic()))


def test_a_guest_that_is_gone_is_told_after_its_last_line(ends):
    channel, guest = ends
    guest.sendall(b"last words\n")
    guest.close()
    follow = channel.follow(soon())
    assert next(follow).text == "last words"
    with pytest.raises(GuestDiedError):
        next(follow)


def test_a_socket_that_never_opens_is_a_dead_guest(tmp_path):
    with pytest.raises(GuestDiedError, match="never opened"):
        Channel("serial", tmp_path / "none", time.monotonic())


@pytest.mark.parametrize(
    ("accelerator", "clock", "word"),
    [("tcg", "host", "tcg,thread=multi"), ("kvm", "host", "kvm"), ("tcg", "counted", "-icount")],
)
def test_the_command_names_accelerator_and_clock_and_stands_paths_with_commas(
    accelerator, clock, word
):
    spec = GuestSpec(Path("/k"), Path("/i"), accelerator, clock, append="settle=3")
    command = spec.command(Path("/tmp/a,b"))
    assert word in command
    assert "-S" in command
    assert "console=ttyS0 quiet panic=-1 settle=3" in command
    assert any("path=/tmp/a,,b/serial" in part for part in command)


def test_an_accelerator_that_has_no_counted_clock_is_refused():
    with pytest.raises(BadInputError, match="no clock counted"):
        GuestSpec(Path("/k"), Path("/i"), "kvm", "counted").command(Path("/tmp"))
