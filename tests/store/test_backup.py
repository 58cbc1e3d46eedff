"""A workspace as one file and back, and whether everything in it is sound."""

from uuid import uuid4

import psycopg
import pytest

from haremile.core.records.study import StudyState
from haremile.errors import BadInputError, ConflictError
from haremile.store.backup import check_workspace, restore_backup, status_of, write_backup
from haremile.store.cluster import database_url
from haremile.store.rows import TABLES
from haremile.usecases.access import Role
from haremile.usecases.plan import checked_plan
from haremile_probe.wire import Ticket, dump_capture
from helpers import capture_for, install, order


def silent(_text):
    """Progress that nobody reads."""


@pytest.fixture
def filled(bench, throwaway_url):
    """A workspace with a study of which one run is done; its address."""
    study = bench.studies.create(checked_plan("Which?", [install("A"), install("B")], 2, seed=1))
    bench.studies.set_state(study.id, StudyState.RUNNING)
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    capture = capture_for(order(lease.install))
    capture.ticket = Ticket(str(lease.run.id), lease.run.attempt)
    bench.queue.finish(lease, capture, dump_capture(capture))
    return throwaway_url


@pytest.fixture
def empty(server_url):
    """A database that holds nothing; its address."""
    name = f"haremile_test_{uuid4().hex[:12]}"
    with psycopg.connect(database_url(server_url, "postgres"), autocommit=True) as link:
        link.execute(f"create database {name}")
        yield database_url(server_url, name)
        link.execute(f"drop database {name} with (force)")


def everything(url):
    found = {}
    with psycopg.connect(url) as link:
        for table in TABLES:
            name = table._meta.table_name
            rows = link.execute(f'select to_jsonb(one)::text from "{name}" one').fetchall()
            found[name] = sorted(row[0] for row in rows)
    return found


def test_what_comes_back_is_equal_row_by_row_and_byte_by_byte(filled, empty, tmp_path):
    said = []
    write_backup(filled, tmp_path / "it.dump", said.append)
    restore_backup(empty, tmp_path / "it.dump", said.append)
    assert everything(empty) == everything(filled)
    assert status_of(empty).rows == status_of(filled).rows
    assert status_of(empty).rows["capture"] == 1
    assert list(tmp_path.iterdir()) == [tmp_path / "it.dump"]


def test_a_backup_writes_over_nothing_and_is_brought_into_nothing_that_is_held(filled, tmp_path):
    there = tmp_path / "it.dump"
    write_backup(filled, there, silent)
    was = there.read_bytes()
    with pytest.raises(ConflictError, match="is there already"):
        write_backup(filled, there, silent)
    assert there.read_bytes() == was
    before = everything(filled)
    with pytest.raises(ConflictError, match=r"not empty .*study: 1"):
        restore_backup(filled, there, silent)
    assert everything(filled) == before


def test_a_person_alone_is_something_held_already(bench, throwaway_url, tmp_path):
    bench.access.add_person("Nora", Role.WORK)
    write_backup(throwaway_url, tmp_path / "it.dump", silent)
    assert (tmp_path / "it.dump").stat().st_mode & 0o777 == 0o600
    with pytest.raises(ConflictError, match="not empty"):
        restore_backup(throwaway_url, tmp_path / "it.dump", silent)
    assert [one.name for one in bench.access.people()] == ["Nora"]


def test_what_is_no_backup_changes_nothing(empty, filled, tmp_path):
    file = tmp_path / "it.dump"
    write_backup(filled, file, silent)
    file.write_bytes(file.read_bytes()[:-2000])
    for wrong in (file, tmp_path / "none"):
        with pytest.raises(BadInputError):
            restore_backup(empty, wrong, silent)
        assert status_of(empty).rows == {}


def test_a_sound_workspace_has_no_faults_and_each_wrong_byte_is_told(filled):
    assert check_workspace(filled, silent).faults == ()
    with psycopg.connect(filled, autocommit=True) as link:
        link.execute("update capture set body = body || '\\x00'::bytea")
        link.execute("update reading set value = 'NaN'")
    found = check_workspace(filled, silent)
    assert found.captures == 1
    assert "its bytes are not those that were taken in" in found.faults[0]
    assert found.faults[1] == "a reading is a number: broken 1 times"
