from datetime import UTC, datetime

from haremile.core.records.install_history import StateChange, state_changes

FIRST, SECOND = (datetime(2026, 10, day, tzinfo=UTC) for day in (5, 6))


def test_only_changes_are_told_the_newest_first():
    found = state_changes(
        [
            (FIRST, {"kernel": "6.1", "power": "mains"}),
            (FIRST, {}),
            (SECOND, {"kernel": "6.2", "packages": "812"}),
            (None, {"kernel": "6.2"}),
        ]
    )
    assert found == [
        StateChange(SECOND, "packages", "packages installed", None, "812"),
        StateChange(SECOND, "kernel", "kernel", "6.1", "6.2"),
        StateChange(FIRST, "kernel", "kernel", None, "6.1"),
    ]


def test_nothing_stated_is_no_history():
    assert state_changes([]) == []
    assert state_changes([(FIRST, {"power": "mains"})]) == []
