"""What enrolling leaves on a machine, and how it is taken back; which system boots next."""

import os
import struct

import pytest

from haremile_probe.enrolled import comeback, outbox
from haremile_probe.enrolled.restart import BOOT_NEXT, choose_next
from haremile_probe.enrolled.server import ServerAway, ServerRefused
from haremile_probe.runtime import MissingHere
from haremile_probe.wire import Capture


@pytest.fixture
def home(tmp_path, monkeypatch):
    monkeypatch.setenv("HAREMILE_PROBE_HOME", str(tmp_path / "probe"))
    monkeypatch.setenv("HOME", str(tmp_path))
    for name in ("XDG_CONFIG_HOME", "XDG_CURRENT_DESKTOP", "DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    (tmp_path / "bin").mkdir()
    monkeypatch.setenv("PATH", f"{tmp_path / 'bin'}:/usr/bin:/bin")
    return tmp_path


def program(home, name, text):
    path = home / "bin" / name
    path.write_text(f"#!/bin/sh\n{text}\n")
    path.chmod(0o755)


def test_a_session_starts_it_again_until_it_leaves(home, monkeypatch):
    monkeypatch.setenv("XDG_CURRENT_DESKTOP", "Tarnwick")
    ways = comeback.come_back("/opt/a b.pyz", "autostart")
    (path,) = ways.values()
    text = (home / ".config/autostart/haremile-probe.desktop").read_text()
    assert path == str(home / ".config/autostart/haremile-probe.desktop")
    assert "'/opt/a b.pyz' work --quiet" in text
    assert f"HAREMILE_PROBE_HOME={home / 'probe'}" in text
    assert comeback.stay_away(ways) == [path]
    assert not os.path.exists(path)


def test_a_table_of_timed_commands_keeps_what_others_wrote(home):
    table = home / "table"
    table.write_text("5 4 * * * tidy\n")
    program(home, "crontab", f'if [ "$1" = -l ]; then cat {table}; else cat >{table}; fi')
    ways = comeback.come_back("/opt/p.pyz", "cron")
    comeback.come_back("/opt/p.pyz", "cron")
    lines = table.read_text().splitlines()
    assert len(lines) == 2
    assert lines[1].startswith("@reboot HAREMILE_PROBE_HOME=")
    comeback.stay_away(ways)
    assert table.read_text() == "5 4 * * * tidy\n"


def test_a_machine_with_no_way_back_says_how_to_start_it(home):
    with pytest.raises(MissingHere, match=r"start it by hand: .*work"):
        comeback.come_back("/opt/p.pyz", "autostart")


def test_the_firmwares_next_entry_is_written_in_one_piece(tmp_path):
    (tmp_path / f"Boot0003-{BOOT_NEXT.partition('-')[2]}").write_bytes(b"")
    assert choose_next("Boot0003", str(tmp_path)) == "firmware"
    assert (tmp_path / BOOT_NEXT).read_bytes() == struct.pack("<IH", 7, 3)
    with pytest.raises(MissingHere, match="no entry Boot0004"):
        choose_next("Boot0004", str(tmp_path))
    with pytest.raises(MissingHere, match="did not boot by UEFI"):
        choose_next("Boot0003", str(tmp_path / "none"))


def test_the_boot_loaders_one_time_entry_is_the_way_otherwise(home):
    with pytest.raises(MissingHere, match="takes a one-time entry"):
        choose_next("Quillfern 8")
    program(home, "grub-reboot", f'printf %s "$1" >{home}/chosen')
    assert choose_next("Quillfern 8") == "grub-reboot"
    assert (home / "chosen").read_text() == "Quillfern 8"
    program(home, "grub-reboot", "echo no such entry >&2; exit 1")
    with pytest.raises(MissingHere, match="no such entry"):
        choose_next("Quillfern 9")


class Answers:
    """A server that answers as it is told to."""

    def __init__(self, *answers):
        self.answers, self.bodies = list(answers), []

    def post(self, path, body):
        self.bodies.append(body)
        answer = self.answers.pop(0)
        if isinstance(answer, Exception):
            raise answer
        return {"became": answer}


def capture(number):
    return Capture(
        id=f"0{number}",
        made_at="2026-10-05T08:00:00+00:00",
        probe="0",
        asked="idle",
        machine="M",
        system="S",
        outcome="done",
    )


def test_captures_go_in_their_order_and_stay_while_the_server_is_away(home):
    for number in (2, 1, 3):
        outbox.keep(capture(number))
    server = Answers("taken", ServerAway("asleep"))
    with pytest.raises(ServerAway):
        outbox.hand_in(server, lambda text: None, [])
    assert b'"id": "01"' in server.bodies[0]
    assert [os.path.basename(path) for path in outbox.waiting()] == ["02.json", "03.json"]
    said = []
    answers = Answers(ServerRefused(409, "other bytes"), "taken", "taken")
    held = [capture(4)]
    assert outbox.hand_in(answers, said.append, held) == 2
    assert held == [], "what the disk had no room for was handed in too"
    assert "other bytes" in said[0]
    assert outbox.waiting() == []
    assert len(list((home / "probe/outbox").glob("*.refused"))) == 1, "kept for a person to see"
