"""A page of ours that plays the clip beside an animation, and counts the pictures that were shown
and those that were not; those of its first seconds apart."""

from typing import Callable, Dict, Optional, Sequence

from haremile_probe.collect.sources import Sources
from haremile_probe.load.page_set import PAGE, SIGNS, Item
from haremile_probe.load.shown import fault_of_showing
from haremile_probe.load.signs import PageServer
from haremile_probe.session_user import SessionUser

NAME = "frames"
START_S = 3.0
COUNTS = """
var video = document.querySelector('video'), START = %d, LASTS = %d
var canvas = document.querySelector('canvas'), pen = canvas.getContext('2d')
var begun = 0, last = 0, gaps = [], startGaps = [], atStart = null
function played() {
  var told = video.getVideoPlaybackQuality ? video.getVideoPlaybackQuality() : null
  return told ? [told.totalVideoFrames, told.droppedVideoFrames] : null
}
function missed(every) {
  var sorted = every.slice().sort(function (a, b) { return a - b })
  var usual = sorted[Math.floor(sorted.length / 2)] || 1, count = 0
  every.forEach(function (gap) { count += Math.max(Math.round(gap / usual) - 1, 0) })
  return count
}
function tell() {
  var now = played(), then = atStart, span = 0
  gaps.forEach(function (gap) { span += gap })
  var counts = { shown: gaps.length, missed: missed(gaps), ms: Math.round(span),
    start_shown: startGaps.length, start_missed: missed(startGaps) }
  if (now && then) {
    counts.start_frames = then[0]
    counts.start_dropped = then[1]
    counts.frames = now[0] - then[0]
    counts.dropped = now[1] - then[1]
  }
  var words = Object.keys(counts).map(function (name) { return name + '=' + counts[name] })
  var request = new XMLHttpRequest()
  request.open('POST', location.pathname + '/counts?' + words.join('&'))
  request.send()
}
function draw(at) {
  if (!begun) begun = at
  if (last) (at - begun < START ? startGaps : gaps).push(at - last)
  last = at
  if (at - begun >= START && !atStart) atStart = played() || [0, 0]
  pen.fillStyle = '#f5f0e4'
  pen.fillRect(0, 0, canvas.width, canvas.height)
  for (var i = 0; i < 60; i++) {
    pen.fillStyle = 'hsl(' + i * 6 + ',45%%,45%%)'
    var x = 280 + 240 * Math.cos(at / 500 + i / 6), y = 150 + 120 * Math.sin(at / 400 + i / 5)
    pen.fillRect(x, y, 24, 24)
  }
  if (at - begun < START + LASTS) requestAnimationFrame(draw)
  else tell()
}
requestAnimationFrame(draw)
"""
BODY = (
    '<video src="clip.webm" muted autoplay loop></video><canvas width="600" height="320"></canvas>'
)


def frames_page(lasts_s: float) -> Item:
    """The page, counting for so long after its first seconds."""
    script = SIGNS + COUNTS % (START_S * 1000, lasts_s * 1000)
    return Item("text/html; charset=utf-8", (PAGE % ("Frames", "Frames", BODY, script)).encode())


def read_frames(
    sources: Sources,
    command: Sequence[str],
    user: Optional[SessionUser],
    lasts_s: float,
    limit_s: float,
    progress: Callable[[str], None],
) -> None:
    """Keep what the page counted as ``frames``; a fault where it never told."""
    server = PageServer({NAME: frames_page(lasts_s)})
    try:
        progress("a clip and an animation for %.0f s" % (START_S + lasts_s))
        words = [*command, server.address(1, NAME)]
        limit_s += START_S + lasts_s
        fault = fault_of_showing("frames", words, user, limit_s, lambda: 1 in server.counts)
        counts: Optional[Dict[str, int]] = server.counts.get(1)
    finally:
        server.close()
    if counts is None:
        sources.faults.append(fault)
        return
    lines = ["%s=%d" % pair for pair in sorted(counts.items())]
    sources.add("frames", "\n".join(lines) + "\n")
