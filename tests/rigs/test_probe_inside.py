"""The probe and the gatherer inside real guests."""

import gzip
import itertools
import subprocess

import pytest

from haremile.cli.session import present_settings
from haremile.formats.captures import checked_capture, parse_brought
from haremile.formats.probe_archive import GATHERER, NAME, read_gatherer, read_probe_archive
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.spec import GuestSpec
from haremile_probe.parsers.meminfo import memory_use, parse_meminfo
from haremile_probe.wire import RecordReader, load_capture
from helpers import readable_folder

LIMIT_S = 240.0
pytestmark = pytest.mark.long


@pytest.fixture(scope="module")
def with_probe():
    """Makes a system's packed files with the probe's laid over them."""
    with readable_folder() as folder:
        yield packing(folder)


def packing(folder):
    (folder / "probe").mkdir()
    (folder / "probe" / NAME).write_bytes(read_probe_archive())
    (folder / "probe" / GATHERER).write_bytes(read_gatherer())
    names = "\n".join(["probe", f"probe/{NAME}", f"probe/{GATHERER}"])
    packed = subprocess.run(
        ["cpio", "--quiet", "-o", "-H", "newc"],
        cwd=folder,
        input=names.encode(),
        capture_output=True,
        check=True,
    )
    images = GuestImages(present_settings().guests)

    def made(system):
        path = folder / f"{system}.cpio.gz"
        path.write_bytes(images.initrd(system).read_bytes() + gzip.compress(packed.stdout))
        return GuestSpec(images.kernel, path, "tcg", "host", memory_mib=320)

    return made


def answers(spec, words):
    """Boot, then give each word in turn; all that came on the port until each was done."""
    found = []
    with GuestMachine(spec) as guest:
        deadline = guest.power_on() + LIMIT_S
        next(
            line for line in guest.serial.follow(deadline) if line.text.startswith("HM-MARK ready")
        )
        for word, last in words:
            start = len(guest.port.lines)
            guest.port.send(word)
            texts, is_last = [], False
            for line in itertools.islice(guest.port.follow(deadline), start, None):
                texts.append(line.text)
                is_last = is_last or line.text.startswith(f"HM1 {last} ")
                if is_last and line.text.startswith("HM1 . "):
                    break
            found.append(texts)
    return found


def test_the_gatherer_tells_boot_idle_and_footprint_of_a_system_without_python(with_probe):
    spec = with_probe("osterfell-base")
    (texts,) = answers(
        spec, [("gather -m Tiny -s Osterfell -w 3 -l 20 boot idle footprint", "gathered")]
    )
    begin = next(i for i, text in enumerate(texts) if text.startswith("HM1 gather "))
    body = "\n".join(texts[begin:-2]).encode()
    boot, idle, footprint = (one.capture for one in parse_brought("gathered.txt", body))
    assert [boot.asked, idle.asked, footprint.asked] == ["boot", "idle", "footprint"]
    assert {reading.metric for reading in boot.readings} == {"boot.kernel"}
    assert 0.1 < boot.readings[0].value < 60.0
    values = {reading.metric: reading.value for reading in idle.readings}
    use = memory_use(parse_meminfo(idle.text_of("picked-meminfo")))
    assert values["memory.used"] == use.used
    assert values["process.count"] >= 2
    assert idle.conditions["kernel"] == boot.conditions["kernel"]
    assert {r.metric for r in footprint.readings} == {"disk.used", "disk.walked"}


def test_the_probe_measures_idle_memory_and_the_boot_inside_a_guest(with_probe):
    spec = with_probe("osterfell-python")
    words = [
        ("probe idle --window 3 --limit 30 --instants none --quiet --system Osterfell", "capture"),
        ("probe boot --quiet --system Osterfell", "capture"),
    ]
    captures = []
    for texts in answers(spec, words):
        reader = RecordReader()
        begin = next(i for i, text in enumerate(texts) if text.startswith("HM1 capture "))
        records = [reader.feed(text) for text in texts[begin:]]
        captures.append(checked_capture(load_capture(records[-1].text.encode())))
    idle, boot = captures
    values = {reading.metric: reading.value for reading in idle.readings}
    assert values["memory.used"] > 2**20
    assert values["memory.pss"] > idle_own(idle)
    assert [fault for fault in idle.faults if fault.what.startswith("meminfo")] == []
    assert [r.metric for r in boot.readings] == ["boot.kernel"]
    assert "systemd" in " ".join(fault.what for fault in boot.faults)


def idle_own(capture):
    """The probe's own part of memory, which is said beside the raw figure."""
    lines = dict(line.split() for line in capture.text_of("probe-memory").splitlines())
    return int(lines["pss"])
