"""Our own pages, of sizes like everyday ones: the same bytes every time, numbered by version.

Four kinds take turns: reading (text and pictures), gallery (large pictures, scrolled), clip (1080
lines, playing) and workshop (a form, a script that keeps a table in order, an animation). Every
page tells when it was loaded and painted, and gives a sign of life each second with its own delay.
"""

import pkgutil
import random
import struct
import zlib
from functools import lru_cache
from typing import Callable, Dict, List, NamedTuple, Tuple

VERSION = "1"
WORDS = (
    "seed bank field station meadow drawer label moss fern stone river terminal "
    "winter envelope harvest ledger cellar window morning catalogue paper jar shelf light "
    "water garden measure"
)
SIGNS = """
(function () {
  var last = performance.now()
  function say(what, delay) {
    var request = new XMLHttpRequest()
    request.open('POST', location.pathname + '/sign?what=' + what + '&delay=' + Math.round(delay))
    request.send()
  }
  window.addEventListener('load', function () {
    say('loaded', performance.now())
    requestAnimationFrame(function () { requestAnimationFrame(function () {
      say('painted', performance.now())
    }) })
  })
  function alive() {
    var now = performance.now()
    say('alive', Math.max(now - last - 1000, 0))
    last = now
  }
  try { // a worker's clock is not slowed down while the page is not the one in front
    var code = 'setInterval(function () { postMessage(0) }, 1000)'
    var clock = new Worker(URL.createObjectURL(new Blob([code], { type: 'text/javascript' })))
    clock.onmessage = alive
  } catch (error) {
    setInterval(alive, 1000)
  }
})()
"""
SCROLLS = """
setInterval(function () {
  window.scrollTo(0, (window.scrollY + 3) % Math.max(document.body.scrollHeight - innerHeight, 1))
}, 50)
"""
WORKS = """
var rows = [], body = document.querySelector('tbody')
for (var i = 0; i < 600; i++) rows.push([i, (i * 7919) % 10007, 'drawer ' + (i * 31) % 997])
setInterval(function () {
  var by = Math.floor(performance.now() / 1000) % 3
  rows.sort(function (a, b) { return a[by] < b[by] ? -1 : a[by] > b[by] ? 1 : 0 })
  body.innerHTML = rows.map(function (row) {
    return '<tr><td>' + row.join('</td><td>') + '</td></tr>'
  }).join('')
}, 2000)
var canvas = document.querySelector('canvas'), pen = canvas.getContext('2d'), turn = 0
setInterval(function () {
  turn += 0.03
  pen.fillStyle = '#f5f0e4'
  pen.fillRect(0, 0, canvas.width, canvas.height)
  for (var i = 0; i < 40; i++) {
    pen.fillStyle = 'hsl(' + i * 9 + ',45%,45%)'
    var x = 280 + 240 * Math.cos(turn + i / 6), y = 150 + 120 * Math.sin(turn * 1.3 + i / 5)
    pen.fillRect(x, y, 24, 24)
  }
}, 40)
"""
PAGE = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>%s</title>
<style>body{font:17px/1.5 sans-serif;max-width:60em;margin:2em auto;color:#20303a}
img{margin:6px;border:1px solid #dcd2be}video{width:100%%}td{padding:2px 12px}</style></head><body>
<h1>%s</h1>%s<script>%s</script></body></html>
"""


class Item(NamedTuple):
    """A file of the set: its kind as HTTP states it, and its bytes."""

    content_type: str
    body: bytes


@lru_cache(maxsize=1)
def items() -> Dict[str, Item]:
    """Every file of the set by its name."""
    found = {name: Item("text/html; charset=utf-8", make()) for name, make in _PAGES.items()}
    for name, (width, height, seed) in PICTURES.items():
        found[name] = Item("image/png", png(width, height, seed))
    clip = pkgutil.get_data("haremile_probe.load", "clip.webm")
    assert clip is not None
    found["clip.webm"] = Item("video/webm", clip)
    return found


PICTURES: Dict[str, Tuple[int, int, int]] = {
    **{"small-%d.png" % number: (320, 200, number) for number in range(8)},
    **{"large-%d.png" % number: (800, 500, 100 + number) for number in range(4)},
}
"""Width, height in pixels and seed."""


def _page(title: str, body: str, script: str = "") -> bytes:
    return (PAGE % (title, title, body, SIGNS + script)).encode()


def _text(paragraphs: int, seed: int) -> str:
    dice, words = random.Random(seed), WORDS.split(" ")
    return "".join(
        "<p>%s.</p>" % " ".join(dice.choice(words) for _ in range(90)).capitalize()
        for _ in range(paragraphs)
    )


def _images(names: List[str]) -> str:
    return "".join('<img src="%s" alt="">' % name for name in names)


def _reading() -> bytes:
    small = sorted(name for name in PICTURES if name.startswith("small"))
    return _page("Reading", _images(small[:4]) + _text(60, 1) + _images(small[4:]) + _text(40, 2))


def _gallery() -> bytes:
    large = sorted(name for name in PICTURES if name.startswith("large"))
    return _page("Gallery", _images(large) + _text(10, 3), SCROLLS)


def _clip() -> bytes:
    return _page("Clip", '<video src="clip.webm" muted autoplay loop></video>' + _text(6, 4))


def _workshop() -> bytes:
    form = "".join("<p><label>Field %d <input></label></p>" % number for number in range(12))
    canvas = '<canvas width="600" height="320"></canvas>'
    return _page(
        "Workshop", "%s<form>%s</form><table><tbody></tbody></table>" % (canvas, form), WORKS
    )


_PAGES: Dict[str, Callable[[], bytes]] = {
    "reading": _reading,
    "gallery": _gallery,
    "clip": _clip,
    "workshop": _workshop,
}


def png(width: int, height: int, seed: int) -> bytes:
    """A PNG of grain, in pixels. Its data is stored as it is, so that no packer's version shows."""
    dice = random.Random(seed)
    row = 3 * width
    grain = dice.getrandbits(8 * row * height).to_bytes(row * height, "big")
    lines = b"".join(b"\0" + grain[row * y : row * (y + 1)] for y in range(height))
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        _chunk(name, body)
        for name, body in ((b"IHDR", head), (b"IDAT", _stored(lines)), (b"IEND", b""))
    )


def _stored(body: bytes) -> bytes:
    """A zlib stream of stored blocks (RFC 1950, RFC 1951, 3.2.4)."""
    most = 65535
    parts = [body[at : at + most] for at in range(0, len(body), most)]
    blocks = b"".join(
        struct.pack("<BHH", number == len(parts) - 1, len(part), len(part) ^ 0xFFFF) + part
        for number, part in enumerate(parts)
    )
    return b"\x78\x01" + blocks + struct.pack(">I", zlib.adler32(body))


def _chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack(">I4s", len(body), name) + body + struct.pack(">I", zlib.crc32(name + body))
