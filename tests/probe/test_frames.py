"""Pictures shown and dropped: what our page counted is read, and why it told nothing."""

import sys
from pathlib import Path

import pytest

from haremile_probe.collect.sources import Sources
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.frames import parse_counts, parse_presented
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.start import LaunchPlan
from haremile_probe.load.frames import read_frames
from haremile_probe.load.presented import read_presented
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import Record

BROWSER = """
import sys, time, urllib.request
address = sys.argv[-1]
assert b'getVideoPlaybackQuality' in urllib.request.urlopen(address).read()
clip = address.rpartition('/')[0] + '/clip.webm'
assert len(urllib.request.urlopen(clip).read()) > 100000
request = urllib.request.Request(address + '/counts?' + sys.argv[1], b'', method='POST')
urllib.request.urlopen(request).close()
time.sleep(60)
"""
EVERY_TENTH = (
    "shown=540&missed=60&ms=10000&start_shown=180&start_missed=2"
    "&frames=250&dropped=25&start_frames=75&start_dropped=15"
)


def captured(*command, limit_s=20.0):
    sources = Sources()
    read_frames(sources, command, None, 1.0, limit_s, lambda text: None)
    account = account_of("frames", sources.records, sources.faults)
    return capture_of(account, "frames", "x", "now", "Bench", "Varrow 12")


def test_one_that_drops_every_tenth_is_told_to():
    capture = captured(sys.executable, "-c", BROWSER, EVERY_TENTH)
    found = {one.metric: one.value for one in capture.readings}
    assert found["frame.dropped"] == pytest.approx(0.1)
    assert found["frame.dropped_start"] == pytest.approx(0.2)
    assert found["frame.missed"] == pytest.approx(0.1)
    assert found["frame.rate"] == pytest.approx(54.0)


def test_a_browser_that_counts_no_clip_still_tells_of_the_animation():
    capture = captured(sys.executable, "-c", BROWSER, "shown=600&missed=0&ms=10000")
    assert {one.metric for one in capture.readings} == {"frame.rate", "frame.missed"}


@pytest.mark.parametrize(
    ("command", "kind", "says"),
    [
        (["/there/is/no/browser"], "unreadable", "No such file"),
        ([sys.executable, "-c", "raise SystemExit(4)"], "unreadable", "code 4"),
        ([sys.executable, "-c", "import time; time.sleep(99)"], "timed-out", "timed out"),
    ],
)
def test_one_that_never_tells_has_its_reason(command, kind, says):
    capture = captured(*command, limit_s=-3.0)
    assert capture.outcome == "could-not-measure"
    assert capture.faults[-1].kind == kind
    assert says in capture.reason


def of_a_window(text):
    account = account_of("frames", [Record("presented", 1.0, text)], [])
    return capture_of(account, "frames", "x", "now", "Bench", "Varrow 12")


def test_every_picture_of_a_window_is_told_of_at_its_refresh(display, tmp_path):
    become_subreaper()
    sources, book = Sources(), tmp_path / "shown"
    plan = LaunchPlan(limit_s=20.0, quiet_s=0.0)
    known = str(Path(__file__).with_name("x_applications.py"))
    command = [sys.executable, known, "presents", str(book)]
    read_presented(sources, command, plan, 3.0, lambda text: None)
    assert sources.faults == []
    told = [one.refresh for one in parse_presented(sources.records[-1].text)]
    shown = [int(line) for line in book.read_text().split()]
    assert told == [one for one in shown if told[0] <= one <= told[-1]]
    found = account_of("frames", sources.records, []).readings
    assert {(one.metric, one.method) for one in found} == {
        ("frame.rate", "present"),
        ("frame.missed", "present"),
    }


def test_a_window_that_leaves_out_every_tenth_picture_is_told_to():
    kept = [number for number in range(1001) if number % 10 != 9]
    capture = of_a_window("".join(f"{number * 16_667} {number} 1\n" for number in kept))
    found = {one.metric: one.value for one in capture.readings}
    assert found["frame.missed"] == pytest.approx(0.1)
    assert found["frame.rate"] == pytest.approx(54.0, rel=1e-3)


def test_a_window_that_presents_nothing_is_said_to(display):
    become_subreaper()
    sources = Sources()
    command = [sys.executable, str(Path(__file__).with_name("x_applications.py")), "blank"]
    plan = LaunchPlan(limit_s=20.0, quiet_s=0.0)
    read_presented(sources, command, plan, 0.1, lambda text: None)
    assert [fault.kind for fault in sources.faults] == ["absent"]
    assert "draws otherwise" in sources.faults[0].what


def test_pictures_that_come_every_other_refresh_lack_none():
    text = "".join(f"{number * 33_333} {number * 2} 1\n" for number in range(101))
    found = {one.metric: one.value for one in of_a_window(text).readings}
    assert found["frame.missed"] == 0.0
    assert found["frame.rate"] == pytest.approx(30.0, rel=1e-3)


def test_pictures_that_were_replaced_before_their_refresh_are_none_that_lack():
    lines = [f"{n * 8_000} {n // 2} {n % 2}\n" for n in range(200)]
    found = {one.metric: one.value for one in of_a_window("".join(lines)).readings}
    assert found["frame.missed"] == 0.0


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("1 2 1\n" * 3, "3 pictures only"),
        ("5 1 1\n4 2 1\n", "a picture before"),
        ("5 one 1\n", "no picture"),
        ("5 1\n", "no picture"),
    ],
)
def test_a_window_of_which_too_little_is_told_has_no_reading(text, says):
    capture = of_a_window(text)
    assert (capture.outcome, capture.readings) == ("could-not-measure", [])
    assert says in capture.faults[-1].what


@pytest.mark.parametrize("text", ["shown=-1", "shown=many", "seen=3", "shown", "shown=99999999"])
def test_what_is_no_count_is_never_guessed(text):
    with pytest.raises(UnreadableError, match="no count of pictures"):
        parse_counts(text)
