import json
from dataclasses import replace

import pytest

from haremile_probe.wire import (
    CaptureTrace,
    Evidence,
    Fault,
    RecordReader,
    WireError,
    dump_capture,
    load_capture,
)
from helpers import capture_for, install, order


def whole_capture():
    return replace(
        capture_for(order(install("Osterfell Base"))),
        traces=[CaptureTrace("memory.used", "B", [0.5, 1.0], [10.0, 11.0])],
        evidence=[Evidence("serial", "HM-MARK ready 2.29 \u2713\n")],
        faults=[Fault("denied", "firmware tables")],
    )


def test_a_capture_comes_back_as_it_was():
    capture = whole_capture()
    assert load_capture(dump_capture(capture)) == capture
    assert dump_capture(capture) == dump_capture(load_capture(dump_capture(capture)))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda d: d.pop("readings"), "readings"),
        (lambda d: d.update(format="haremile-capture/9"), "format"),
        (lambda d: d.update(outcome="perhaps"), "perhaps"),
        (lambda d: d.update(colour="red"), "colour"),
        (lambda d: d.update(faults=[{"kind": "odd", "what": "x"}]), "unknown kind of fault: odd"),
    ],
)
def test_a_document_of_another_form_is_refused(change, says):
    document = json.loads(dump_capture(whole_capture()))
    change(document)
    with pytest.raises(WireError, match=says):
        load_capture(json.dumps(document).encode())


@pytest.mark.parametrize("body", [b"", b"[]", b"\xff\xfe", b"{"])
def test_what_is_no_document_is_refused(body):
    with pytest.raises(WireError):
        load_capture(body)


def test_framed_records_are_put_together_line_by_line():
    reader = RecordReader()
    lines = ["HM1 meminfo 3.29", "|MemTotal: 1 kB", "|", "HM1 . 3.31"]
    found = [reader.feed(line) for line in lines]
    assert found[:3] == [None, None, None]
    assert found[3].name == "meminfo"
    assert found[3].uptime_s == 3.29
    assert found[3].text == "MemTotal: 1 kB\n\n"


@pytest.mark.parametrize("line", ["|loose", "HM2 x 1.0", "HM1 . 1.0", ""])
def test_a_line_outside_a_record_is_refused(line):
    with pytest.raises(WireError):
        RecordReader().feed(line)
