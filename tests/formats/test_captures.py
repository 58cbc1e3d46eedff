"""What a tester brings is recognised by what stands in it, and refused with the fault named."""

import json
from dataclasses import replace
from uuid import uuid4

import pytest

from haremile.errors import BadInputError
from haremile.formats import captures
from haremile.formats.captures import facts_of, kind_of, parse_brought, parse_stored
from haremile_probe.wire import CaptureReading, CaptureTrace, Evidence, Ticket, dump_capture
from helpers import capture_for, install, order

CSV = b"system,machine,metric,value,unit\nVarrow 12,Laptop,boot.total,17,s\n"


def capture(**change):
    return replace(capture_for(order(install("Varrow 12"))), **change)


def gathered(*asked):
    heads = [
        f"HM1 gather 1.0\n|id=0190a5f0-0000-7000-8000-00000000000{n}\n"
        f"|made_at=2026-10-05T08:00:00+00:00\n|asked={one}\n|machine=Field-kit board\n"
        "|version=1\n|system=Osterfell Base\nHM1 . 1.0\n"
        "HM1 filesystem 2.0\n|block_size=4096 blocks=100 free=40\nHM1 . 2.0\n"
        for n, one in enumerate(asked)
    ]
    return "".join(heads).encode()


def test_files_are_told_apart_by_what_stands_in_them():
    for body, kind in (
        (dump_capture(capture()), "haremile-capture/1"),
        (gathered("about"), "haremile-gather/1"),
        (CSV, "readings-csv"),
    ):
        (brought,) = parse_brought("any name", body)
        assert (brought.kind, kind_of(body), brought.body) == (kind, kind, body)


def test_a_gathered_file_is_as_many_captures_as_it_holds_and_each_is_kept_by_itself():
    about, footprint = parse_brought("g.txt", gathered("about", "footprint"))
    assert [r.metric for r in footprint.capture.readings] == ["disk.used"]
    assert footprint.capture.readings[0].value == 60 * 4096
    assert about.body + footprint.body == gathered("about", "footprint")
    assert parse_stored(footprint.kind, footprint.body) == footprint.capture
    assert parse_stored("readings-csv", CSV) is None


READING = CaptureReading("boot.total", 3.0, "s", "host-marker")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"asked": "dance"}, "unknown procedure: dance"),
        ({"id": "7"}, "no UUID"),
        ({"made_at": "yesterday"}, "not a date"),
        ({"made_at": "2026-10-05T08:00:00"}, "without its zone"),
        ({"machine": " "}, "machine needs a name"),
        ({"system": "a\nb"}, "system needs a name"),
        ({"conditions": {"mood": "good"}}, "unknown condition: mood"),
        ({"readings": [replace(READING, metric="boot.totl")]}, "unknown metric: boot.totl"),
        ({"readings": [replace(READING, unit="B")]}, "boot.total: it is measured in s, not in B"),
        ({"readings": [replace(READING, unit="stone")]}, "stone"),
        ({"readings": [replace(READING, method="guess")]}, "unknown method: guess"),
        ({"readings": [READING, READING]}, "stands 2 times"),
        ({"readings": [replace(READING, step=-1)]}, "step out of range"),
        ({"readings": [replace(READING, resolution=-0.1)]}, "a resolution is positive"),
        ({"readings": [replace(READING, conditions={"mood": "x"})]}, "unknown condition: mood"),
        ({"readings": [replace(READING, value=-3.0)]}, "a negative value"),
        ({"readings": [replace(READING, value=9e18)]}, "further from 0 than any"),
        ({"made_at": "0001-01-01T00:00:00+14:00"}, "no time at which"),
        ({"made_at": "9999-12-31T23:59:59-14:00"}, "no time at which"),
        ({"system": "Varrow \u202e21"}, "control characters"),
        ({"ticket": Ticket("x", 1)}, "no UUID"),
        ({"ticket": Ticket(str(uuid4()), 0)}, "attempt 0"),
        (
            {"traces": [CaptureTrace("boot.total", "B", [1.0], [2.0])]},
            "it is measured in s",
        ),
    ],
)
def test_a_capture_with_something_unknown_in_it_is_refused(change, says):
    with pytest.raises(BadInputError, match=says) as refused:
        parse_brought("laptop.json", dump_capture(capture(**change)))
    assert str(refused.value).startswith("laptop.json: ")


@pytest.mark.parametrize("value", ["NaN", "Infinity", "1e999", "true", '"3"', "null", "[3]"])
def test_a_value_that_is_no_number_is_refused(value):
    body = dump_capture(capture()).replace(b"3.0", value.encode())
    with pytest.raises(BadInputError, match=r"readings\[0\].value"):
        parse_brought("x.json", body)


@pytest.mark.parametrize("name", ["nul\\u0000", "bell\\u0007", "half\\ud800"])
def test_names_with_control_characters_or_half_ones_are_refused(name):
    body = dump_capture(capture()).replace(b'"Bench"', f'"{name}"'.encode())
    with pytest.raises(BadInputError, match=r"control characters|half a character"):
        parse_brought("x.json", body)


def test_what_is_too_large_is_refused_with_its_size(monkeypatch):
    monkeypatch.setattr(captures, "MOST_BYTES", 2**20)
    with pytest.raises(BadInputError, match=r"big.json holds 2\.0 MiB; at most 1 MiB"):
        parse_brought("big.json", b"{" + b" " * 2**21)


def test_deep_nesting_is_refused():
    with pytest.raises(BadInputError):
        parse_brought("deep.json", b'{"format":' + b"[" * 100_000)


@pytest.mark.parametrize(
    ("facts", "storage"),
    [
        ({"root": {"storage": "NVMe"}}, "NVMe"),
        ({"root": {"storage": ["x"]}}, None),
        ({"root": 3}, None),
        ([], None),
        ({"root": {"storage": "a\nb"}}, None),
    ],
)
def test_a_machines_facts_are_taken_only_as_plain_text(facts, storage):
    found = facts_of(
        capture(
            conditions={"cores": "4", "kernel": "6.1"},
            evidence=[Evidence("facts", json.dumps(facts))],
        )
    )
    assert found.pop("storage", None) == storage
    assert found == {"cores": "4"}
