import subprocess
import threading
from dataclasses import replace
from uuid import UUID, uuid4

import psycopg
import pytest

from haremile.core.records.study import RunState, StudyState
from haremile.errors import CaptureConflictError, ConflictError, NotFoundError, StaleAttemptError
from haremile.store.conductor_ids import OWN_BITS, PID_BITS, place
from haremile.store.leases import LEASE_S
from haremile.store.rows import EventRow, database
from haremile.store.runs import PostgresRunQueue
from haremile.usecases.plan import checked_plan
from haremile_probe.wire import Ticket, dump_capture
from helpers import capture_for, install, order


@pytest.fixture
def study(bench):
    plan = checked_plan("Which?", [install("A"), install("B")], 2, seed=1)
    return bench.studies.create(plan)


def captured(lease, value=3.0, outcome="done"):
    asked = order(lease.install)
    capture = capture_for(asked, value, outcome)
    return replace(capture, ticket=Ticket(str(lease.run.id), lease.run.attempt))


def finish(bench, lease, capture):
    bench.queue.finish(lease, capture, dump_capture(capture))


def test_runs_are_handed_out_in_order_until_none_is_left(bench, study):
    positions = []
    while (lease := bench.queue.lease_next(study.id)) is not None:
        positions.append(lease.run.position)
        bench.queue.begin(lease)
        finish(bench, lease, captured(lease))
    assert positions == [1, 2, 3, 4]
    assert {run.state for run in bench.studies.runs(study.id)} == {RunState.DONE}


def test_an_overtaken_attempt_stays_as_evidence_and_gives_no_readings(bench, study):
    first = bench.queue.lease_next(study.id)
    bench.queue.begin(first)
    assert bench.queue.release_lost(study.id) == 1
    second = bench.queue.lease_next(study.id)
    assert second.run.id == first.run.id
    assert second.run.attempt == 2
    late = captured(first, 99.0)
    with pytest.raises(StaleAttemptError):
        finish(bench, first, late)
    bench.queue.begin(second)
    finish(bench, second, captured(second, 3.0))
    with pytest.raises(StaleAttemptError):
        finish(bench, first, late)
    assert [r.value for r in bench.readings.readings(study.id)] == [3.0]
    assert bench.readings.capture(UUID(late.id)).body == dump_capture(late)


def test_the_same_capture_with_other_bytes_is_refused_and_nothing_changes(bench, study):
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    capture = captured(lease)
    finish(bench, lease, capture)
    other = bench.queue.lease_next(study.id)
    bench.queue.begin(other)
    with pytest.raises(CaptureConflictError):
        finish(bench, other, replace(capture, probe="other"))
    assert len(bench.readings.readings(study.id)) == 1


def test_a_failed_run_keeps_its_reason_and_can_be_planned_again(bench, study):
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    finish(bench, lease, replace(captured(lease, outcome="failed"), reason="hung: no mark"))
    run = bench.studies.runs(study.id)[0]
    assert (run.state, run.reason) == (RunState.FAILED, "hung: no mark")
    assert bench.readings.readings(study.id) == []
    bench.queue.plan_again(run.id)
    assert bench.queue.lease_next(study.id).run.attempt == 2


def test_only_what_failed_is_planned_again(bench, study):
    with pytest.raises(ConflictError, match="planned"):
        bench.queue.plan_again(bench.studies.runs(study.id)[0].id)
    with pytest.raises(NotFoundError):
        bench.queue.plan_again(uuid4())


def test_a_study_is_held_as_long_as_a_conductor_is_at_work(bench, study):
    with bench.queue.hold(study.id):
        with bench.queue.hold(study.id):
            assert bench.queue.is_held(study.id)
        assert bench.queue.is_held(study.id)
    assert not bench.queue.is_held(study.id)


def age(throwaway_url, lease, seconds):
    with psycopg.connect(throwaway_url, autocommit=True) as link:
        link.execute(
            "update attempt set beat_at = now() - %s * interval '1 second' where id = %s",
            (seconds, lease.attempt_id),
        )


def test_a_lease_is_lost_when_its_holder_gives_no_sign_for_long(bench, study, throwaway_url):
    bench.studies.set_state(study.id, StudyState.RUNNING)
    with bench.queue.hold(study.id) as hand:
        lease = bench.queue.lease_next(study.id, hand.id, "Bench")
        bench.queue.begin(lease)
        assert bench.queue.release_lost(study.id) == 0
        age(throwaway_url, lease, LEASE_S + 1)
        assert hand.beat([lease.run.id]) == {lease.run.id}
        assert bench.queue.release_lost(study.id) == 0
        age(throwaway_url, lease, LEASE_S + 1)
        assert bench.queue.release_lost(study.id) == 1
        assert hand.beat([lease.run.id]) == set()
        with pytest.raises(StaleAttemptError):
            finish(bench, lease, captured(lease))


def test_a_lease_is_lost_at_once_when_its_holder_is_gone(bench, study):
    bench.studies.set_state(study.id, StudyState.RUNNING)
    with bench.queue.hold(study.id) as hand:
        assert bench.queue.lease_next(study.id, hand.id, "Bench")
        assert bench.queue.lease_next(study.id, hand.id, "Bench") is None, "its machine is taken"
    assert bench.queue.release_lost(study.id) == 1


def test_runs_of_a_process_that_died_with_the_server_are_free_at_once(bench, study, throwaway_url):
    queue = PostgresRunQueue(throwaway_url, bench.events, lease_s=1e9)
    gone = subprocess.Popen(["true"])
    gone.wait()
    died = (place() << PID_BITS | gone.pid) << OWN_BITS
    bench.studies.set_state(study.id, StudyState.RUNNING)
    with queue.hold(study.id) as hand:
        run_id = queue.lease_next(study.id, hand.id, "Bench").run.id
        with psycopg.connect(throwaway_url, autocommit=True) as link:
            # the server was started after its last sign of life, which freed all locks
            before = "update attempt set beat_at = pg_postmaster_start_time() where run_id = %s"
            link.execute(before, (run_id,))
            assert queue.release_lost(study.id) == 0
            link.execute("update attempt set conductor = %s where run_id = %s", (died, run_id))
        assert queue.release_lost(study.id) == 1


def test_a_finished_run_that_is_handed_in_again_changes_nothing(bench, study):
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    capture = captured(lease)
    finish(bench, lease, capture)
    finish(bench, lease, capture)
    bench_again = [e.kind for e in bench.events.after(0, study.id)]
    assert bench_again.count("run.done") == 1
    assert len(bench.readings.readings(study.id)) == 1


def test_looking_whether_a_study_is_held_never_takes_it(bench, study):
    looking = threading.Event()

    def look():
        while not looking.is_set():
            bench.queue.is_held(study.id)

    onlooker = threading.Thread(target=look)
    onlooker.start()
    try:
        for _ in range(60):
            with bench.queue.hold(study.id) as mine:
                assert mine.beat([]) == set()
    finally:
        looking.set()
        onlooker.join()


def test_events_tell_the_study_in_order_and_are_never_changed(bench, study):
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    finish(bench, lease, captured(lease))
    bench.studies.set_state(study.id, StudyState.PAUSED)
    kinds = [event.kind for event in bench.events.after(0, study.id)]
    assert kinds == ["study.planned", "run.leased", "run.running", "run.done", "study.paused"]
    with pytest.raises(Exception, match="only ever added"), database.connection_context():
        EventRow.update(kind="other").execute()


def test_readings_set_aside_keep_their_reason_until_taken_back(bench, study):
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    finish(bench, lease, captured(lease))
    (reading,) = bench.readings.readings(study.id)
    bench.readings.set_aside(reading.id, "lid closed")
    assert bench.readings.readings(study.id)[0].set_aside == "lid closed"
    assert bench.readings.observations(study.id)[0].is_set_aside
    bench.readings.set_aside(reading.id, None)
    assert bench.readings.readings(study.id)[0].set_aside is None


def test_a_reading_is_unique_for_its_attempt_metric_method_and_step(bench, study, throwaway_url):
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    finish(bench, lease, captured(lease))
    with psycopg.connect(throwaway_url) as link, pytest.raises(psycopg.errors.UniqueViolation):
        link.execute(
            "insert into reading select gen_random_uuid(), attempt_id, lane_id, metric, method,"
            " step, value, unit, resolution, set_aside, set_aside_at from reading"
        )
