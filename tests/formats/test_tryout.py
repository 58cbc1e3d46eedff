"""Files that a system is asked to open are whole, and the same every time."""

import io
import tarfile
import wave
import zipfile

import pytest

from haremile.formats.tryout import TEXT, TRYOUTS, picture


@pytest.mark.parametrize("name", TRYOUTS)
def test_each_is_the_same_every_time(name):
    _, make = TRYOUTS[name]
    assert make() == make() and len(make()) > 100


def test_what_is_packed_comes_out_again():
    wanted = {"ledger/seeds.txt": TEXT.encode(), "ledger/fields.png": picture()}
    with zipfile.ZipFile(io.BytesIO(TRYOUTS["ledger.zip"][1]())) as packed:
        assert {name: packed.read(name) for name in packed.namelist()} == wanted
    with tarfile.open(fileobj=io.BytesIO(TRYOUTS["ledger.tar.gz"][1]())) as packed:
        found = {one.name: packed.extractfile(one).read() for one in packed.getmembers()}
    assert found == wanted


def test_the_tone_lasts_two_seconds_in_stereo():
    with wave.open(io.BytesIO(TRYOUTS["tone.wav"][1]())) as tone:
        assert tone.getnframes() == 2 * tone.getframerate() and tone.getnchannels() == 2
