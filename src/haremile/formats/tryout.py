"""Small files of our own that a system is asked to open: the same bytes every time."""

import gzip
import io
import math
import struct
import tarfile
import wave
import zipfile
import zlib
from collections.abc import Callable, Mapping
from importlib.resources import files

TEXT = (
    "Seed ledger, tray 12\n"
    "Äpfel, naïve façade, Ødegård, žluťoučký kůň, 東京, ½ €\n"
    "If every sign above is shown, this file opens as it should.\n"
)
WIDTH, HEIGHT = 320, 180
RATE, SECONDS, PITCH = 22_050, 2, 440.0
LONG_AGO = (2000, 1, 1, 0, 0, 0)


def picture() -> bytes:
    """A PNG of four fields of colour and a ramp of grey, 320 × 180."""
    fields = ((156, 52, 26), (38, 84, 66), (196, 140, 40), (52, 60, 92))
    rows = bytearray()
    for y in range(HEIGHT):
        rows.append(0)
        for x in range(WIDTH):
            grey = x * 255 // (WIDTH - 1)
            rows += bytes((grey,) * 3 if y >= HEIGHT * 3 // 4 else fields[x * 4 // WIDTH])
    head = struct.pack(">IIBBBBB", WIDTH, HEIGHT, 8, 2, 0, 0, 0)
    parts = (b"IHDR", head), (b"IDAT", zlib.compress(bytes(rows), 9)), (b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + b"".join(_chunk(name, body) for name, body in parts)


def _chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))


def sound() -> bytes:
    """Two seconds of a tone of 440 Hz, first left, then right: a WAV file."""
    output = io.BytesIO()
    with wave.open(output, "wb") as made:
        made.setnchannels(2)
        made.setsampwidth(2)
        made.setframerate(RATE)
        frames = bytearray()
        for i in range(RATE * SECONDS):
            value = int(12_000 * math.sin(2 * math.pi * PITCH * i / RATE))
            frames += struct.pack("<hh", *((value, 0) if i < RATE else (0, value)))
        made.writeframes(bytes(frames))
    return output.getvalue()


def document() -> bytes:
    """One page of text and a frame, as PDF."""
    content = b"BT /F1 24 Tf 72 720 Td (Seed ledger, tray 12) Tj ET\n72 600 200 80 re S\n"
    objects = [
        b"<< /Type /Catalog /Pages 2 0 R >>",
        b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        b"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R "
        b"/Resources << /Font << /F1 5 0 R >> >> >>",
        b"<< /Length %d >>\nstream\n%bendstream" % (len(content), content),
        b"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ]
    body, places = bytearray(b"%PDF-1.4\n"), []
    for number, one in enumerate(objects, start=1):
        places.append(len(body))
        body += b"%d 0 obj\n%b\nendobj\n" % (number, one)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    size, start = len(objects) + 1, len(body)
    body += b"xref\n0 %d\n0000000000 65535 f \n%b" % (size, table)
    body += b"trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % (size, start)
    return bytes(body)


def clip() -> bytes:
    """The clip of the page set."""
    return (files("haremile_probe") / "load" / "clip.webm").read_bytes()


def zipped() -> bytes:
    """Text and picture in a ZIP archive."""
    output = io.BytesIO()
    with zipfile.ZipFile(output, "w", zipfile.ZIP_DEFLATED) as made:
        for name, body in _packed().items():
            made.writestr(zipfile.ZipInfo(name, LONG_AGO), body, zipfile.ZIP_DEFLATED)
    return output.getvalue()


def tarred() -> bytes:
    """The same in a compressed TAR archive."""
    output = io.BytesIO()
    with (
        gzip.GzipFile(fileobj=output, mode="wb", mtime=0) as packed,
        tarfile.open(fileobj=packed, mode="w") as made,
    ):
        for name, body in _packed().items():
            entry = tarfile.TarInfo(name)
            entry.size = len(body)
            made.addfile(entry, io.BytesIO(body))
    return output.getvalue()


def _packed() -> dict[str, bytes]:
    return {"ledger/seeds.txt": TEXT.encode(), "ledger/fields.png": picture()}


TRYOUTS: Mapping[str, tuple[str, Callable[[], bytes]]] = {
    "seeds.txt": ("text/plain; charset=utf-8", TEXT.encode),
    "fields.png": ("image/png", picture),
    "tone.wav": ("audio/wav", sound),
    "clip.webm": ("video/webm", clip),
    "ledger.pdf": ("application/pdf", document),
    "ledger.zip": ("application/zip", zipped),
    "ledger.tar.gz": ("application/gzip", tarred),
}
"""Kind and maker of each, by name."""
