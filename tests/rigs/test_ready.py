import socket
import threading
import time

import pytest

from haremile.errors import GuestDiedError, GuestHungError
from haremile.rigs.guest.channel import Channel
from haremile.rigs.guest.ready import ByPort, ByProbe, ByScreen, BySerial
from haremile.rigs.guest.screen import ScreenRule

SOON_S = 20.0


class Guest:
    """A guest of which only the ends are there."""

    is_running = True
    forwarded = 0

    def frame(self):
        return b"P6\n1 1\n255\n\0\0\0"

    def picture(self):
        return b""


@pytest.fixture
def line(tmp_path):
    """A channel, and the guest's end of it."""
    path = tmp_path / "line"
    with socket.socket(socket.AF_UNIX) as listener:
        listener.bind(str(path))
        listener.listen()
        channel = Channel("serial", path, time.monotonic() + SOON_S)
        end, _ = listener.accept()
        yield channel, end
        end.close()
        channel.close()


def soon():
    return time.monotonic() + SOON_S


def test_a_prompt_counts_although_its_line_has_no_end(line):
    guest = Guest()
    guest.serial, end = line
    end.sendall(b"starting\nvarrow login: ")
    ready = BySerial("login:").wait(guest, soon())
    assert ready.method == "serial"
    assert ready.at <= time.monotonic()


def test_the_agents_word_is_stamped_when_it_begins(line):
    guest = Guest()
    guest.port, end = line
    end.sendall(b"HM1 ready 12.5\n|desktop 12.4\nHM1 . 12.5\n")
    ready = ByProbe().wait(guest, soon())
    assert ready.method == "host-marker"
    assert ready.evidence[0].text == "desktop 12.4\n"


def test_a_port_that_speaks_answers_and_one_that_hangs_up_does_not():
    guest = Guest()
    with socket.socket() as listener:
        listener.bind(("127.0.0.1", 0))
        listener.listen()
        guest.forwarded = listener.getsockname()[1]

        def serve():
            for speaks in (False, False, True):
                link, _ = listener.accept()
                with link:
                    if speaks:
                        link.sendall(b"welcome")

        server = threading.Thread(target=serve)
        server.start()
        assert ByPort(22).wait(guest, soon()).method == "port"
        server.join()


def test_what_never_comes_hangs_and_a_guest_that_ended_has_died():
    guest = Guest()
    guest.forwarded = 1
    over = time.monotonic() - 1.0
    with pytest.raises(GuestHungError, match="port 22"):
        ByPort(22).wait(guest, over)
    with pytest.raises(GuestHungError, match="never was lit"):
        ByScreen(ScreenRule()).wait(guest, over)
    guest.is_running = False
    with pytest.raises(GuestDiedError):
        ByPort(22).wait(guest, soon())
    with pytest.raises(GuestDiedError):
        ByScreen(ScreenRule()).wait(guest, soon())
