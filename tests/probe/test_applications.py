"""A machine's own list of applications, and as whom they are launched."""

import os

import pytest

from haremile_probe.enrolled.applications import (
    allowed_line,
    command_for,
    keep_applications,
    proposals,
    read_applications,
)
from haremile_probe.main import main
from haremile_probe.runtime import BadInput, Refused
from haremile_probe.session_user import environment_for, session_user

ENTRY = "[Desktop Entry]\nType=Application\nName=%s\nExec=%s %%U\nCategories=%s;\n"


@pytest.fixture
def menu(monkeypatch, tmp_path):
    """A machine with a menu, and a home of the probe."""
    monkeypatch.setenv("HAREMILE_PROBE_HOME", str(tmp_path / "probe"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "own"))
    monkeypatch.setenv("XDG_DATA_DIRS", str(tmp_path / "share"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    folder = tmp_path / "share" / "applications"
    folder.mkdir(parents=True)
    for name, program, categories in (
        ("Coppicer", "coppicer", "System;FileManager"),
        ("Alder", "alder", "FileManager"),
        ("Wayfarrow", "wayfarrow", "Network;WebBrowser"),
        ("Inkwarren", "inkwarren", "Office;WordProcessor"),
        ("Sums", "sums", "Office"),
    ):
        (folder / f"{program}.desktop").write_text(ENTRY % (name, program, categories))
    (folder / "hidden.desktop").write_text(ENTRY % ("H", "h", "WebBrowser") + "NoDisplay=true\n")
    (folder / "broken.desktop").write_text("[Desktop Entry]\nCategories=WebBrowser;\n")
    (tmp_path / "config").mkdir()
    (tmp_path / "config" / "mimeapps.list").write_text(
        "[Default Applications]\ninode/directory=coppicer.desktop;\n"
    )
    return tmp_path


def test_file_manager_browser_and_office_are_proposed_by_what_opens_them(menu):
    assert proposals() == {
        "Coppicer": "coppicer.desktop",
        "Wayfarrow": "wayfarrow.desktop",
        "Inkwarren": "inkwarren.desktop",
    }


def test_only_what_is_on_the_list_has_a_command(menu):
    assert command_for("Coppicer") is None
    keep_applications({"Coppicer": "coppicer.desktop", "Ink": "inkwarren --new 'a b'"})
    assert command_for("Ink") == ["inkwarren", "--new", "a b"]
    assert command_for("sh") is None
    assert (menu / "probe" / "applications.json").stat().st_mode & 0o777 == 0o600


def test_the_list_is_shown_and_edited_on_the_machine(menu, capsys):
    assert main(["allow"]) == 0
    assert "no application may be launched" in capsys.readouterr().out
    assert main(["allow", "--proposed", "Ink=inkwarren --new"]) == 0
    assert "Ink=inkwarren --new\n" in capsys.readouterr().out
    assert main(["allow", "--remove", "Ink"]) == 0
    assert set(read_applications()) == {"Coppicer", "Wayfarrow", "Inkwarren"}
    assert main(["allow", "--remove", "Ink"]) == 2


@pytest.mark.parametrize(
    "text", ["Coppicer", "=coppicer", "A=", "A='b", "a\nb=c", "x" * 101 + "=c"]
)
def test_a_line_of_another_shape_is_refused(text):
    with pytest.raises(BadInput):
        allowed_line(text)


@pytest.fixture
def as_root(monkeypatch):
    monkeypatch.setattr("os.geteuid", lambda: 0)
    for name in ("SUDO_UID", "PKEXEC_UID", "DOAS_UID"):
        monkeypatch.delenv(name, raising=False)


def session(folder, **facts):
    folder.mkdir(exist_ok=True)
    (folder / facts.pop("name", "2")).write_text("".join(f"{k}={v}\n" for k, v in facts.items()))


def test_root_launches_as_whose_session_is_on_the_screen(as_root, tmp_path):
    session(tmp_path / "s", name="1", UID="0", ACTIVE="1", TYPE="tty")
    session(tmp_path / "s", name="2", UID="1", ACTIVE="0", TYPE="x11")
    session(tmp_path / "s", name="3", UID="2", ACTIVE="1", TYPE="wayland")
    found = session_user(None, str(tmp_path / "s"))
    assert found.uid == 2
    own = environment_for(found, {"HOME": "/root", "XDG_CONFIG_HOME": "/root/.c", "DISPLAY": ":0"})
    assert own["HOME"] == found.home
    assert own["USER"] == found.name
    assert own["DISPLAY"] == ":0"
    assert "XDG_CONFIG_HOME" not in own


def test_root_never_launches_as_root_unasked(as_root, tmp_path, monkeypatch):
    with pytest.raises(Refused, match="name one: --user"):
        session_user(None, str(tmp_path))
    with pytest.raises(Refused, match="no user nobody-of-that-name"):
        session_user("nobody-of-that-name", str(tmp_path))
    assert session_user("root", str(tmp_path)) is None
    monkeypatch.setenv("SUDO_UID", "1")
    assert session_user(None, str(tmp_path)).uid == 1


def test_an_ordinary_user_launches_as_it_is(monkeypatch, tmp_path):
    monkeypatch.setattr("os.geteuid", lambda: 4321)
    assert session_user(None, str(tmp_path)) is None
    with pytest.raises(Refused, match="only root can"):
        session_user("root", str(tmp_path))
    assert environment_for(None, dict(os.environ)) == dict(os.environ)
