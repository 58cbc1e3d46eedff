"""Whether the bench is well: for persons, for what watches it, and in figures for a key."""

import pytest

from haremile.core.records.units import MIB
from haremile.errors import StoreUnavailableError
from haremile.usecases.access import Role


def figures(answer):
    lines = [line for line in answer.text.splitlines() if line and not line.startswith("#")]
    return {name: float(value) for name, _, value in (line.rpartition(" ") for line in lines)}


def lost(*_):
    raise StoreUnavailableError("gone")


def test_everyone_may_ask_whether_it_is_well_and_learns_no_more(stranger, monkeypatch):
    found = stranger.get("/healthz")
    assert (found.status_code, found.text) == (200, "ok\n")
    monkeypatch.setattr("haremile.store.health.PostgresHealth.is_up", lost)
    assert stranger.get("/healthz").status_code == 503


def test_figures_count_runs_by_state_and_tell_of_disk_and_database(client, study):
    found = figures(client.get("/metrics"))
    assert found['haremile_runs{state="done"}'] == 16 and found["haremile_queue_length"] == 0
    assert found["haremile_database_up"] == 1 and found["haremile_database_bytes"] > 1e6
    assert 0 < found["haremile_disk_free_bytes"] <= found["haremile_disk_total_bytes"]
    assert found["haremile_event_lag_seconds"] >= 0 and found["haremile_last_event"] > 0
    assert found["haremile_oldest_waiting_machine_seconds"] == 0


def test_figures_are_told_while_the_database_is_away(client, monkeypatch):
    monkeypatch.setattr("haremile.store.health.PostgresHealth.figures", lost)
    found = figures(client.get("/metrics"))
    assert found["haremile_database_up"] == 0 and "haremile_queue_length" not in found


def test_figures_are_told_to_a_key_alone(stranger, bench):
    assert stranger.get("/metrics").status_code == 401
    key = bench.access.add_person("Watch", Role.LOOK)
    found = stranger.get("/metrics", headers={"Authorization": f"Bearer {key}"})
    assert found.status_code == 200


@pytest.mark.parametrize(
    ("free", "says"),
    [(100 * MIB, "The disk is full"), (600 * MIB, "nearly full"), (50_000 * MIB, None)],
)
def test_a_disk_is_told_of_before_it_is_full_and_after(client, monkeypatch, free, says):
    monkeypatch.setattr("haremile.bootstrap.Bench.disk", lambda self: (free, 100_000 * MIB))
    found = client.get("/api/health").json()["disk"]
    assert found is None if says is None else says in found
