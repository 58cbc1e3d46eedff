"""The first useful page after a boot: our own page tells when it was there, or why it never was."""

import sys
import time
from pathlib import Path

import pytest

from haremile.rigs.probe_words import probe_words
from haremile_probe.collect.sources import Sources
from haremile_probe.interpret import account_of
from haremile_probe.load.first_page import read_first_page
from haremile_probe.wire import Record

BROWSER = [sys.executable, str(Path(__file__).with_name("load_application.py")), "1"]


def read(*words, limit_s=20.0):
    sources = Sources()
    read_first_page(sources, words, None, limit_s)
    return sources


def test_the_page_is_there_when_it_says_that_it_was_painted(tmp_path):
    begun = Sources().clock()
    found = read(*BROWSER, "carries", "0", str(tmp_path / "socket"))
    (record,) = found.records
    assert begun < float(record.text) <= Sources().clock()
    assert found.faults == []


@pytest.mark.parametrize(
    ("words", "kind", "says"),
    [
        (["/there/is/no/browser"], "unreadable", "No such file"),
        ([sys.executable, "-c", "raise SystemExit(3)"], "unreadable", "code 3"),
        ([sys.executable, "-c", "import time; time.sleep(60)"], "timed-out", "timed out"),
    ],
)
def test_one_that_never_was_is_a_fault_with_its_reason(words, kind, says):
    begun = time.monotonic()
    found = read(*words, limit_s=1.0)
    assert found.records == []
    (fault,) = found.faults
    assert fault.kind == kind
    assert says in fault.what
    assert time.monotonic() - begun < 30


def test_it_is_a_part_of_the_boot():
    account = account_of("boot", [Record("first-page", 40.0, "38.250\n")])
    (reading,) = [one for one in account.readings if one.metric == "boot.task"]
    assert (reading.value, reading.unit, reading.method) == (38.25, "s", "probe")
    garbled = account_of("boot", [Record("first-page", 40.0, "soon")])
    assert not any(one.metric == "boot.task" for one in garbled.readings)
    assert "no seconds: soon" in garbled.faults[-1].what


def test_a_recipe_says_which_browser_it_is():
    recipe = {
        "probe.boot": "--until-settled --task Wayfarrow",
        "app.Wayfarrow": "wayfarrow --new-window",
    }
    words = probe_words("boot", {}, recipe)
    assert words[0] == "boot"
    assert words[words.index("--task") + 1] == "Wayfarrow"
    assert words[words.index("--app") + 1] == "Wayfarrow=wayfarrow --new-window"
