"""A tester's own images: taken in whole or not at all."""

import hashlib

import pytest

from haremile.errors import BadInputError, ConflictError, NoSpaceError
from haremile.rigs.guest.images import HostImages
from helpers import qcow2_head

DISK = b"\0" * 510 + b"\x55\xaa" + b"x" * 2000
LIVE = b"\0" * 0x8001 + b"CD001" + b"y" * 500


@pytest.fixture
def images(tmp_path):
    return HostImages(tmp_path)


def take(images, name, body, size=None):
    parts = (body[at : at + 700] for at in range(0, len(body), 700))
    return images.take(name, len(body) if size is None else size, parts)


@pytest.mark.parametrize(
    ("name", "body"), [("a.raw", DISK), ("b.img", DISK), ("c.iso", LIVE), ("d.qcow2", None)]
)
def test_an_image_is_kept_with_its_size_and_sum(images, tmp_path, name, body):
    body = qcow2_head() if body is None else body
    made = take(images, name, body)
    assert (made.size, made.sha256) == (len(body), hashlib.sha256(body).hexdigest())
    assert images.here() == [made]
    images.check({"image": made.image, "ready": "screen"})
    with pytest.raises(ConflictError, match="there is an image"):
        take(images, name, body)


@pytest.mark.parametrize(
    ("name", "body", "said"),
    [
        ("a.iso", DISK, "is not what its name says"),
        ("a.raw", b"plain text", "is not what its name says"),
        ("a.qcow2", DISK, "is no qcow2 image"),
        ("a.qcow2", qcow2_head(backing=8), "based on another file"),
        ("a.txt", DISK, "is no image that is known"),
        ("../a.raw", DISK, "is no image that is known"),
        ("", DISK, "is no image that is known"),
    ],
)
def test_what_is_none_is_refused_and_nothing_is_left(images, tmp_path, name, body, said):
    with pytest.raises(BadInputError, match=said):
        take(images, name, body)
    assert images.here() == []
    assert not [path for path in tmp_path.rglob("*") if path.is_file()]


def test_one_that_ends_early_or_does_not_fit_is_refused(images, tmp_path):
    with pytest.raises(BadInputError, match="ended after"):
        take(images, "a.raw", DISK, len(DISK) + 1)
    with pytest.raises(NoSpaceError, match="MiB are free here"):
        take(images, "a.raw", DISK, 2**60)
    assert images.here() == []


def test_a_file_of_this_host_is_copied_with_its_progress(images, tmp_path):
    source = tmp_path / "mine.raw"
    source.write_bytes(DISK)
    told = []
    made = images.copy(source, lambda done, of: told.append((done, of)))
    assert made.label == "mine.raw"
    assert told[-1] == (len(DISK), len(DISK))
    with pytest.raises(BadInputError, match="is no file on this host"):
        images.copy(tmp_path / "none.raw", lambda done, of: None)


def test_ready_is_told_in_a_way_that_there_is(images):
    made = take(images, "a.raw", DISK)
    with pytest.raises(BadInputError, match="ready is told by"):
        images.check({"image": made.image, "ready": "a feeling"})
    with pytest.raises(BadInputError, match="no image /etc/passwd"):
        images.check({"image": "/etc/passwd", "ready": "screen"})
