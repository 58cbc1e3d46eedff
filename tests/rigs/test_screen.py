import struct
import zlib

import numpy as np
import pytest

from haremile.rigs.guest.screen import (
    ScreenRule,
    ScreenWatch,
    await_quiet,
    parse_ppm,
    small_png,
    text_lines,
)


def ppm(frame):
    height, width, _ = frame.shape
    return f"P6\n{width} {height}\n255\n".encode() + frame.tobytes()


def plain(level, size=(480, 640)):
    return np.full((*size, 3), level, np.uint8)


class Recorded:
    """A screen that shows one frame after the other, and a clock that goes with it."""

    def __init__(self, frames):
        self.frames, self.shown, self.now, self.own_from = frames, -1, 0.0, -1.0

    def frame(self):
        self.shown += 1
        return ppm(self.frames[min(self.shown, len(self.frames) - 1)])

    def picture(self):
        return b"picture %d" % self.shown

    def sleep(self, seconds):
        self.now += seconds

    def watch(self, rule, limit_s=60.0):
        is_over = lambda: self.now > limit_s  # noqa: E731
        return await_quiet(self, rule, is_over, lambda: self.now, self.sleep, lambda: self.own_from)


def test_ready_is_when_the_last_picture_appeared_and_that_picture_is_kept():
    desktop = plain(90)
    frames = [plain(0)] * 4 + [plain(40)] * 4 + [desktop]
    seen = Recorded(frames).watch(ScreenRule(quiet_s=5.0))
    assert seen.at == 4.0
    assert seen.newest == ppm(desktop)
    assert seen.picture == "cGljdHVyZSA4", "picture 8"
    assert [small.at for small in seen.way] == [0.0, 2.0, 4.0], "one for each that it showed"


@pytest.mark.parametrize("level", [10, 32])
def test_a_screen_of_one_colour_is_read_whatever_its_bytes_stand_for(level):
    assert np.array_equal(parse_ppm(ppm(plain(level))), plain(level))


def test_what_the_firmware_left_on_the_screen_is_not_ready():
    screen = Recorded([plain(0)] + [plain(60)] * 30 + [plain(90)])
    screen.own_from = 1.5
    assert screen.watch(ScreenRule(quiet_s=5.0)).at == 15.5


def test_small_pictures_of_the_way_are_few_however_often_the_screen_changes():
    frames = [plain(level) for level in range(0, 250, 2)] + [plain(250)]
    seen = Recorded(frames).watch(ScreenRule(quiet_s=5.0), limit_s=200.0)
    times = [small.at for small in seen.way]
    assert len(times) <= 24
    assert times == sorted(times)
    assert (times[0], times[-1]) == (0.0, seen.at), "where it began and where it came to rest"


def test_a_small_picture_is_a_png_with_every_other_pixel():
    frame = plain(20)
    frame[240:, :] = (200, 100, 50)
    picture = small_png(frame)
    assert picture.startswith(b"\x89PNG\r\n\x1a\n")
    chunks, at = {}, 8
    while at < len(picture):
        (size,) = struct.unpack(">I", picture[at : at + 4])
        kind, body = picture[at + 4 : at + 8], picture[at + 8 : at + 8 + size]
        assert struct.unpack(">I", picture[at + 8 + size : at + 12 + size])[0] == zlib.crc32(
            kind + body
        )
        chunks[kind], at = body, at + 12 + size
    assert struct.unpack(">IIBB", chunks[b"IHDR"][:10]) == (320, 240, 8, 2)
    rows = np.frombuffer(zlib.decompress(chunks[b"IDAT"]), np.uint8).reshape(240, 961)
    assert not rows[:, 0].any(), "no filter"
    assert np.array_equal(rows[:, 1:].reshape(240, 320, 3), frame[::2, ::2])


def test_a_blinking_caret_does_not_keep_a_screen_from_being_ready():
    caret = plain(90)
    caret[100:116, 200:208] = 255
    frames = [plain(90), caret] * 40
    assert Recorded(frames).watch(ScreenRule(quiet_s=4.0))[0] == 0.0


def test_a_dark_screen_and_one_that_never_rests_are_never_ready():
    assert Recorded([plain(0)]).watch(ScreenRule(quiet_s=1.0)) is None
    assert Recorded([plain(40), plain(90)] * 100).watch(ScreenRule(quiet_s=1.0)) is None


def test_a_dark_screen_with_lines_of_text_is_ready_and_one_with_a_caret_alone_is_not():
    text = np.zeros((480, 640, 3), np.uint8)
    for top in range(20, 100, 20):
        text[top : top + 14, 10:300] = 200
    assert text_lines(text) == 4
    caret = np.zeros((480, 640, 3), np.uint8)
    caret[20:34, 10:18] = 200
    assert text_lines(caret) == 1
    picture = np.zeros((480, 640, 3), np.uint8)
    picture[100:300] = 200
    assert text_lines(picture) == 0
    watch = ScreenWatch(ScreenRule(quiet_s=2.0))
    assert [watch.add(at, text) for at in (0.0, 1.0, 2.0)] == [False, False, True]


def test_another_resolution_counts_as_a_change():
    watch = ScreenWatch(ScreenRule(quiet_s=2.0))
    assert not watch.add(0.0, plain(90))
    assert not watch.add(1.9, plain(90, (600, 800)))
    assert not watch.add(3.0, plain(90, (600, 800)))
    assert watch.add(3.9, plain(90, (600, 800)))
    assert watch.changed_at == 1.9


@pytest.mark.parametrize(
    "body", [b"", b"P5\n2 2\n255\n....", b"P6\n900 900\n255\nxx", b"P6\n0 1\n255\n"]
)
def test_what_is_no_picture_is_refused(body):
    with pytest.raises(ValueError, match="picture"):
        parse_ppm(body)


def test_pixels_stand_where_they_belong():
    frame = np.arange(2 * 3 * 3, dtype=np.uint8).reshape(2, 3, 3)
    assert np.array_equal(parse_ppm(ppm(frame)), frame)


def test_with_a_reference_it_is_ready_when_it_first_looks_like_that_though_something_moves():
    desktop = plain(90)
    desktop[100:200, 100:400] = 200
    clocks = []
    for number in range(8):  # a clock that never rests would keep any other rule waiting
        shown = desktop.copy()
        shown[0:40, 500:600] = 30 * number
        clocks.append(shown)
    frames = [plain(0)] * 3 + [plain(90)] * 3 + clocks * 10
    rule = ScreenRule(quiet_s=15.0, reference=desktop)
    assert Recorded(frames).watch(rule)[0] == 3.0
    assert "reference" in rule.text
    assert Recorded([plain(90)]).watch(rule) is None
    assert Recorded([plain(90, size=(600, 800))]).watch(rule) is None
