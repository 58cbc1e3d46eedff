"""A bench book goes out as a package and comes back the same, row by row and byte by byte."""

import json
import zipfile
from datetime import UTC, datetime
from hashlib import sha256
from uuid import uuid4

import psycopg
import pytest

from haremile.core.records.library import Noun
from haremile.core.records.study import Install, Machine, System
from haremile.errors import BadInputError, ConflictError, NotFoundError
from haremile.formats.data_package import DESCRIPTION, read_package, write_package
from haremile.usecases.package import hand_on, take_package
from haremile.usecases.ports import PackageChoices, StudyPlan

AT = datetime(2026, 10, 20, 9, 0, tzinfo=UTC)
HERBARIUM = "Which edition boots the Herbarium laptop soonest?"
NOTHING = PackageChoices()


@pytest.fixture(scope="module")
def made():
    """The package of the sample world, which is the same for every test."""
    return {}


@pytest.fixture(name="handed")
def handed_on(bench, world, tmp_path, made):
    """The sample world as a package, and what it held."""
    target = tmp_path / "book.zip"
    if "body" not in made:
        hand_on(bench.packages, bench.publishing, None, "Seed bank", AT, target)
        made["body"] = target.read_bytes()
    target.write_bytes(made["body"])
    return target, rows(bench)


def rows(bench):
    return {one.name: sorted(map(repr, one.rows)) for one in bench.packages.tables(None)}


def from_elsewhere(path, bench, **change):
    """The same package as if another bench book had written it."""
    with path.open("rb") as opened:
        package = read_package(opened, bench.packages.known())
    made = package.__class__(**{**vars(package), "origin": uuid4(), **change})
    write_package(made, path)
    return path


def emptied(bench, throwaway_url):
    """All tables that a package holds are empty, as on another machine."""
    names = ", ".join(f'"{one.name}"' for one in bench.packages.known())
    with psycopg.connect(throwaway_url, autocommit=True) as link:
        link.execute(f"truncate {names} cascade")


def test_everything_comes_back_row_by_row(bench, handed, throwaway_url):
    path, before = handed
    emptied(bench, throwaway_url)
    taken = take_package(bench.packages, path, NOTHING, True)
    assert rows(bench) == before
    assert taken.is_own and {one.what for one in taken.studies} == {"new"}
    assert taken.rows == sum(map(len, before.values())) and not taken.differing
    again = take_package(bench.packages, path, NOTHING, True)
    assert again.rows == 0 and {one.what for one in again.studies} == {"the same as here"}
    assert rows(bench) == before


def test_looking_keeps_nothing(bench, handed, throwaway_url):
    path, _ = handed
    emptied(bench, throwaway_url)
    taken = take_package(bench.packages, path, NOTHING, False)
    assert taken.rows > 1000 and bench.studies.digests() == []


def test_one_study_brings_what_it_rests_on_and_keeps_its_origin(
    bench, world, throwaway_url, tmp_path
):
    key, path = world[HERBARIUM].id, tmp_path / "one.zip"
    observed = bench.readings.observed_conditions(key)
    hand_on(bench.packages, bench.publishing, [key], "Seed bank", AT, path)
    from_elsewhere(path, bench)
    emptied(bench, throwaway_url)
    (study,) = take_package(bench.packages, path, NOTHING, True).studies
    assert (study.id, study.what) == (key, "new")
    assert bench.packages.origin(key) == "Seed bank"
    (digest,) = bench.studies.digests()
    assert (digest.runs, digest.failed) == (world[HERBARIUM].runs, world[HERBARIUM].failed)
    assert bench.readings.observed_conditions(key) == observed


def test_a_package_is_read_without_a_server_and_described_for_others(handed):
    with zipfile.ZipFile(handed[0]) as packed:
        described = json.loads(packed.read(DESCRIPTION))
        index = packed.read("index.html").decode()
        for resource in described["resources"]:
            head = packed.read(resource["path"]).decode().splitlines()[0].split(",")
            assert head == [one["name"] for one in resource["schema"]["fields"]]
            assert packed.getinfo(resource["path"]).file_size == resource["bytes"]
        pages = [name for name in packed.namelist() if name.startswith("pages/")]
    assert HERBARIUM in index and all(f'href="{name}"' in index for name in pages)
    assert len(pages) > 10


def commanded(bench):
    """A study whose install has commands."""
    install = Install(
        System("Varrow 12 Tarnwick"),
        Machine("Herbarium laptop"),
        "",
        rig="enrolled",
        recipe={"open Coppicer": "rm -rf /"},
    )
    return bench.studies.create(StudyPlan("Asked", [install], 1, 1, {}, ("boot",)))


def test_commands_from_elsewhere_wait_to_be_approved(bench, throwaway_url, tmp_path):
    study, path = commanded(bench), tmp_path / "one.zip"
    hand_on(bench.packages, bench.publishing, [study.id], "Elsewhere", AT, path)
    from_elsewhere(path, bench)
    emptied(bench, throwaway_url)
    (waiting,) = take_package(bench.packages, path, NOTHING, True).commands
    (contender,) = bench.studies.get(study.id).contenders
    assert contender.install.rig is None and contender.install.recipe == {}
    assert dict(waiting.commands) == {"operated by": "enrolled", "open Coppicer": "rm -rf /"}
    assert take_package(bench.packages, path, PackageChoices(is_theirs=True), True).rows == 0
    (contender,) = bench.studies.get(study.id).contenders
    assert contender.install.rig is None
    bench.packages.approve(waiting.install, True)
    (contender,) = bench.studies.get(study.id).contenders
    assert contender.install.rig == "enrolled" and bench.packages.offered() == []
    with pytest.raises(NotFoundError):
        bench.packages.approve(waiting.install, True)


@pytest.mark.parametrize("is_renamed", [False, True])
def test_a_name_that_is_taken_is_asked_about(bench, throwaway_url, tmp_path, is_renamed):
    study, path = commanded(bench), tmp_path / "one.zip"
    hand_on(bench.packages, bench.publishing, [study.id], "Elsewhere", AT, path)
    from_elsewhere(path, bench)
    emptied(bench, throwaway_url)
    own = bench.things.add(Noun.SYSTEM, "Varrow 12 Tarnwick", {})
    (asked,) = take_package(bench.packages, path, NOTHING, False).names
    assert asked.name == "Varrow 12 Tarnwick" and asked.id != own
    choices = PackageChoices(frozenset({asked.id} if is_renamed else ()))
    take_package(bench.packages, path, choices, True)
    (contender,) = bench.studies.get(study.id).contenders
    name = "Varrow 12 Tarnwick (Elsewhere)" if is_renamed else "Varrow 12 Tarnwick"
    assert contender.install.system.name == name
    assert len(bench.things.all(Noun.SYSTEM)) == (2 if is_renamed else 1)


@pytest.mark.parametrize("is_theirs", [False, True])
def test_what_both_say_otherwise_is_told_and_stays_unless_asked(bench, handed, world, is_theirs):
    path, _ = handed
    key = world[HERBARIUM].id
    bench.corrections.rename_study(key, "Another question")
    taken = take_package(bench.packages, path, PackageChoices(is_theirs=is_theirs), True)
    (one,) = [x for x in taken.differing if x.table == "study"]
    assert one.columns == ["title"]
    assert bench.studies.get(key).title == (HERBARIUM if is_theirs else "Another question")


def test_a_capture_with_other_bytes_is_refused(bench, handed, tmp_path):
    path, before = handed
    with path.open("rb") as opened:
        package = read_package(opened, bench.packages.known())
    captures = package.table("capture")
    names = [column.name for column in captures.columns]
    captures.rows[0][names.index("body")] = b"other"
    captures.rows[0][names.index("sha256")] = sha256(b"other").hexdigest()
    write_package(package, path)
    with pytest.raises(ConflictError, match="other bytes"):
        take_package(bench.packages, path, PackageChoices(is_theirs=True), True)
    assert rows(bench) == before


def test_a_capture_whose_bytes_are_not_those_that_were_taken_is_refused(bench, handed):
    path, before = handed
    with path.open("rb") as opened:
        package = read_package(opened, bench.packages.known())
    captures = package.table("capture")
    place = [column.name for column in captures.columns].index("body")
    captures.rows[0][place] = b"other"
    write_package(package, path)
    with pytest.raises(BadInputError, match="not those that were taken"):
        take_package(bench.packages, path, NOTHING, True)
    assert rows(bench) == before


def spoiled(path, name, change):
    """The same package with one of its files changed."""
    with zipfile.ZipFile(path) as packed:
        bodies = {one: packed.read(one) for one in packed.namelist()}
    bodies[name] = change(bodies[name])
    with zipfile.ZipFile(path, "w") as packed:
        for one, body in bodies.items():
            if body is not None:
                packed.writestr(one, body)
    return path


@pytest.mark.parametrize(
    ("name", "change"),
    [
        (DESCRIPTION, lambda body: None),
        (DESCRIPTION, lambda body: b"{"),
        (DESCRIPTION, lambda body: b"[" * 100_000),
        (DESCRIPTION, lambda body: body.replace(b"package/1", b"package/9")),
        (DESCRIPTION, lambda body: body.replace(b'"name": "reading"', b'"name": "person"')),
        ("data/reading.csv", lambda body: None),
        ("data/reading.csv", lambda body: body.replace(b"value,", b"valor,", 1)),
        ("data/reading.csv", lambda body: body + b"one,two\n"),
        ("data/reading.csv", lambda body: body.replace(b"boot.total", b"\xff\xfe", 1)),
        ("data/study.csv", lambda body: body.replace(b"laptop", b"lap\xe2\x80\xaetop", 1)),
    ],
)
def test_a_package_that_is_not_what_it_says_is_refused_whole(bench, handed, name, change):
    path, before = handed
    with pytest.raises(BadInputError):
        take_package(bench.packages, spoiled(path, name, change), NOTHING, True)
    assert rows(bench) == before


def test_evidence_that_is_not_what_its_name_says_is_refused(bench, handed):
    path, _ = handed
    with zipfile.ZipFile(path) as packed:
        evidence = next(one for one in packed.namelist() if one.startswith("files/"))
    with pytest.raises(BadInputError, match="not what its name says"):
        take_package(bench.packages, spoiled(path, evidence, lambda body: b"x"), NOTHING, True)


def test_what_is_no_package_is_refused(bench, tmp_path):
    path = tmp_path / "note.txt"
    path.write_text("no package")
    with pytest.raises(BadInputError, match="no data package"):
        take_package(bench.packages, path, NOTHING, True)


def test_what_was_deleted_here_does_not_come_back(bench, handed, world):
    path, _ = handed
    bench.corrections.put_study_away(world[HERBARIUM].id, True)
    bench.corrections.delete_study(world[HERBARIUM].id, HERBARIUM)
    taken = take_package(bench.packages, path, NOTHING, True)
    (study,) = [one for one in taken.studies if one.title == HERBARIUM]
    assert study.what == "deleted here"
    assert HERBARIUM not in {one.title for one in bench.studies.digests()}
