import json

import pytest

from haremile.errors import MissingHereError
from haremile.rigs.guest import build
from haremile.rigs.guest.build import NAMES, GuestImages, build_guests


def lay_out(root):
    images = GuestImages(root)
    for piece in (images.kernel, *(images.initrd(name) for name in NAMES)):
        piece.write_bytes(b"x")
    (root / "built-from.json").write_text(json.dumps(build._sources()))
    return images


def test_built_means_every_piece_from_the_present_sources(tmp_path):
    images = lay_out(tmp_path)
    assert images.are_built
    (tmp_path / "built-from.json").write_text(json.dumps({"common/init": "older"}))
    assert not images.are_built
    lay_out(tmp_path).initrd("osterfell-server").unlink()
    assert not images.are_built


def test_a_missing_tool_is_named(tmp_path, monkeypatch):
    monkeypatch.setattr(build.shutil, "which", lambda tool: None)
    with pytest.raises(MissingHereError, match="apt-get"):
        build_guests(GuestImages(tmp_path), lambda text: None)


def test_the_catalogue_is_the_same_on_every_build(tmp_path):
    for name in ("one", "two"):
        build._write_catalogue(tmp_path / name)
    one, two = ({p.name: p.read_bytes() for p in (tmp_path / n).iterdir()} for n in ("one", "two"))
    assert one == two
    assert len(one) == 25


def test_a_failing_tool_says_what_to_do(tmp_path):
    with pytest.raises(MissingHereError, match="apt-get update"):
        build.run_tool(["dpkg-deb", "-x", str(tmp_path / "none.deb"), str(tmp_path)])
