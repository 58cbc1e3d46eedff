"""Methods in plain words, and what changed from version to version."""

from haremile.core.records.metrics import METHODS as KNOWN
from haremile.core.wording.report import METHODS, methods_in_words, report_changes


def test_every_method_is_told_in_plain_words():
    assert set(METHODS) == set(KNOWN)


def test_methods_are_told_once_each_with_the_order_of_the_runs():
    shown = [("boot.total", "systemd"), ("boot.kernel", "systemd"), ("memory.used", "probe")]
    told = methods_in_words(shown, "blocks", True, "2 verdicts.")
    assert told[0] == (
        "What was measured, and how. power-on to ready and kernel: by the service manager’s own "
        "record of the boot; idle memory: by our probe, which asks the system itself."
    )
    assert "drawn by lot" in told[1] and told[2].endswith("2 verdicts.")
    assert "with a return to the first" in methods_in_words([], "visits", False, "")[0]
    assert "done elsewhere" in methods_in_words([], "blocks", False, "")[0]


def test_changes_are_figures_that_are_written_otherwise():
    was = {"Boot": {"": "A ahead", "A": "17 s", "B": "20 s"}, "Memory": {"A": "500 MiB"}}
    now = {"Boot": {"": "A ahead", "A": "18 s", "C": "21 s"}, "Space": {"A": "6 GiB"}}
    assert report_changes(was, now, ["x"], ["y"]) == [
        "Space is shown too",
        "Memory is not shown any more",
        "Boot, A: 18 s, was 17 s",
        "Boot: C is there now",
        "Boot: B is gone",
        "other words",
    ]
    assert report_changes(was, was, ["x"], ["x"]) == []
