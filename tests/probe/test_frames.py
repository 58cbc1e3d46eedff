"""Pictures shown and dropped: what our page counted is read, and why it told nothing."""

import sys

import pytest

from haremile_probe.collect.sources import Sources
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.frames import parse_counts
from haremile_probe.load.frames import read_frames
from haremile_probe.parsers import UnreadableError

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


@pytest.mark.parametrize("text", ["shown=-1", "shown=many", "seen=3", "shown", "shown=99999999"])
def test_what_is_no_count_is_never_guessed(text):
    with pytest.raises(UnreadableError, match="no count of pictures"):
        parse_counts(text)
