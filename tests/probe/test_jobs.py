"""What a server may ask for lies in closed sets; a command never does."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile_probe.enrolled.work import job_words
from haremile_probe.jobs import (
    OPTIONS,
    Job,
    JobError,
    checked_options,
    dump_job,
    load_job,
    parse_options,
    words_of,
)

LAUNCH = Job("launch", {}, "Coppicer", "warm")


@pytest.fixture
def allowed(monkeypatch, tmp_path):
    monkeypatch.setenv("HAREMILE_PROBE_HOME", str(tmp_path))
    (tmp_path / "applications.json").write_text('{"Coppicer": "coppicer --new \'two words\'"}')


@pytest.mark.parametrize(
    ("document", "says"),
    [
        ({"procedure": "sh", "options": {}}, "the probe does"),
        ({"procedure": "idle", "options": {"out": "/etc/passwd"}}, "not out"),
        ({"procedure": "footprint", "options": {"since": "/etc/shadow"}}, "not since"),
        ({"procedure": "idle", "options": {"window": "1; reboot"}}, "window cannot be"),
        ({"procedure": "launch", "app": "Coppicer", "start": "now"}, "a start is one of"),
        ({"procedure": "launch", "app": "", "start": "warm"}, "names its application"),
        ({"procedure": "idle", "app": "Coppicer"}, "only launch, ramp, response, frames name"),
        ({"procedure": "command"}, "a command names its measure"),
        (
            {"procedure": "command", "app": "x", "options": {"measure": "own.x; reboot"}},
            "measure cannot be",
        ),
        ({"procedure": "command", "app": "x", "options": {"unit": "s s"}}, "unit cannot be"),
        ({"procedure": "command", "app": "x", "options": {"command": "sh"}}, "not command"),
        ({"procedure": "ramp"}, "a ramp names its application"),
        ({"procedure": "ramp", "app": "Coppicer", "start": "warm"}, "only launches name a start"),
        ({"procedure": "ramp", "app": "Coppicer", "options": {"steps": "201"}}, "steps cannot be"),
        ({"procedure": "launch", "app": "sh -c 'id'", "start": "warm"}, "allows no application"),
        ({"procedure": "launch", "app": "/bin/sh", "start": "warm"}, "allows no application"),
        ({"words": ["launch", "--", "sh"]}, "no job"),
        (None, "no job"),
        (["launch"], "no job"),
        ({"procedure": "idle", "options": ["window"]}, "no job"),
        ({"procedure": "idle", "options": {"window": 3}}, "no job"),
    ],
)
def test_the_probe_refuses_whatever_lies_outside(allowed, document, says):
    with pytest.raises(JobError, match=says):
        job_words(document)


def test_a_name_becomes_what_this_machines_own_list_says(allowed):
    words = job_words(dump_job(LAUNCH))
    assert words[-4:] == ["--", "coppicer", "--new", "two words"]
    assert words[:5] == ["launch", "--repeats", "1", "--start", "warm"]


def test_what_is_written_on_the_wire_is_read_again():
    for job in (LAUNCH, Job("idle", {"window": "3", "instants": "none"}), Job("boot")):
        assert load_job(dump_job(job)) == job


def test_options_are_read_as_a_recipe_writes_them():
    assert parse_options("idle", "--window 10 --instants 60,180") == {
        "window": "10",
        "instants": "60,180",
    }
    assert words_of(Job("footprint", parse_options("footprint", "--no-walk"))) == [
        "footprint",
        "--no-walk",
    ]


@pytest.mark.parametrize(
    ("procedure", "text"),
    [
        ("idle", "--out x"),
        ("idle", "window 3"),
        ("idle", "--window"),
        ("idle", "--window '3"),
        ("launch", "--limit 3 -- sh"),
        ("footprint", "--since /etc/passwd"),
        ("sh", "-c id"),
        ("idle", "--window 3 --window 4"),
        ("launch", "--user 'a b'"),
    ],
)
def test_options_of_another_kind_are_refused(procedure, text):
    with pytest.raises(JobError):
        parse_options(procedure, text)


@given(st.sampled_from(sorted(OPTIONS)), st.text(max_size=20), st.text(max_size=20))
def test_no_option_smuggles_a_word(procedure, name, text):
    try:
        options = checked_options(procedure, {name: text})
    except JobError:
        return
    for word in options.values():
        assert not word.startswith("-")
        assert not set(word) & set(" ;|&$`'\"\n")


def own(name):
    options = {"measure": f"own.s.low.{name}", "unit": "s"}
    return {"procedure": "command", "app": name, "options": options}


def test_a_measures_command_is_this_machines_own_and_no_application(allowed, tmp_path):
    (tmp_path / "measures.json").write_text('{"Sort_seeds": "sort-seeds --fast"}')
    words = job_words(own("Sort_seeds"))
    assert words[-3:] == ["--", "sort-seeds", "--fast"]
    assert words[0] == "command"
    for name in ("Coppicer", "rm"):
        with pytest.raises(JobError, match=f"no command for {name}; allow it there"):
            job_words(own(name))
    with pytest.raises(JobError, match="no application Sort_seeds"):
        job_words({"procedure": "launch", "app": "Sort_seeds", "start": "warm"})
