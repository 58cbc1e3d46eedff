import json

import pytest

from haremile.core.records.library import Noun
from haremile.errors import BadInputError
from haremile.formats.about_facts import MOST_BYTES, about_facts, about_of
from haremile_probe.wire import Capture, Evidence, dump_capture

FACTS = {
    "kernel": "6.14.2",
    "init": "systemd",
    "session": {"type": "wayland", "desktop": "Mossgate"},
    "packages": {"dpkg-status": 812},
    "processor": {"cores": 4, "model": "Small 4"},
    "memory_bytes": 2**31,
    "root": {"storage": "NVMe"},
    "firmware": "uefi",
}


def capture(facts):
    return Capture(
        id="0192f0c8-0000-7000-8000-000000000001",
        made_at="2026-10-05T08:00:00+00:00",
        probe="0",
        asked="about",
        machine="Laptop",
        system="Varrow 12",
        outcome="done",
        evidence=[Evidence("facts", facts if isinstance(facts, str) else json.dumps(facts))],
    )


def test_a_system_and_its_machine_are_filled_from_one_capture():
    found = about_of(dump_capture(capture(FACTS)))
    assert about_facts(found, Noun.SYSTEM) == {
        "desktop": "Mossgate",
        "window_system": "Wayland",
        "init": "systemd",
        "kernel": "6.14.2",
        "package_manager": "dpkg",
        "comes_with": "812 packages",
    }
    assert about_facts(found, Noun.MACHINE) == {
        "cores": "4, Small 4",
        "memory": "2.0 GiB",
        "storage": "NVMe",
        "firmware": "uefi",
    }


def test_what_is_not_told_is_left_out():
    told = about_facts(capture({"kernel": "6.1", "session": None}), Noun.SYSTEM)
    assert told == {"kernel": "6.1"}
    assert about_facts(capture({"memory_bytes": 512 * 2**20}), Noun.MACHINE) == {
        "memory": "512 MiB"
    }


@pytest.mark.parametrize("facts", [{}, "[]", "no JSON", {"kernel": ["x"], "session": "x"}])
def test_a_capture_that_tells_nothing_is_refused(facts):
    with pytest.raises(BadInputError, match="tells nothing of a system"):
        about_facts(capture(facts), Noun.SYSTEM)


def test_a_fact_is_a_text_that_can_be_read():
    for wrong in ("6.1\u202e", "x" * 300):
        with pytest.raises(BadInputError):
            about_facts(capture({"kernel": wrong}), Noun.SYSTEM)


@pytest.mark.parametrize(
    "body", [b"", b"plain text", b"system,machine,metric,value,unit\nA,B,boot.total,1,s\n"]
)
def test_what_is_no_capture_is_refused(body):
    with pytest.raises(BadInputError):
        about_of(body)


def test_one_that_is_too_large_is_not_read():
    with pytest.raises(BadInputError, match="smaller than 4 MiB"):
        about_of(b"x" * (MOST_BYTES + 1))
