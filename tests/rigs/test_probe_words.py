"""What a study asks for is a key, options and names: what a name stands for, its owner says."""

import os
from uuid import uuid4

import pytest

from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.own_measure import OwnMeasure
from haremile.core.records.study import Install, Machine, System
from haremile.errors import BadInputError, MissingHereError
from haremile.rigs.enrolled import EnrolledRig
from haremile.rigs.guest.image_boot import asked_words
from haremile.rigs.guest.ready import ready_way
from haremile.rigs.local import LocalRig
from haremile.rigs.probe_words import probe_job, probe_words
from haremile.usecases.plan import checked_plan, with_own_margins
from haremile.usecases.ports import RunOrder
from haremile_probe.wire import REFUSED, Ticket, dump_capture
from helpers import capture_for, order_of

ATTACK = "sh -c 'touch /tmp/haremile-attacked'"
ATTACKS = (ATTACK, "/bin/sh", "xterm", "--help", "a.desktop")


def installs(**recipe):
    return [
        Install(System(name), Machine("Bench"), rig="here", recipe=recipe)
        for name in ("Varrow 12", "Quillfern 8")
    ]


@pytest.mark.parametrize("app", ATTACKS)
def test_a_command_in_a_studys_text_is_never_run(app, tmp_path):
    with pytest.raises(BadInputError, match="nothing says what"):
        checked_plan("Q", installs(), 1, procedures=[f"launch:{app}"])
    order = RunOrder(uuid4(), 1, "launch", installs()[0], 1, 1, 1, {"app": app, "start": "warm"})
    rig = LocalRig(lambda: tmp_path / "there is no archive that could be run")
    with pytest.raises(MissingHereError, match="has no application"):
        rig.run(order, lambda name, at: None)
    job = probe_job("launch", {"app": app, "start": "warm"}, {})
    assert job.app == app, "an enrolled machine is sent the name, and looks it up in its own list"


def test_a_recipe_says_what_a_name_stands_for():
    recipe = {"app.Coppicer": "coppicer --new", "probe.launch": "--limit 20"}
    words = probe_words("launch", {"app": "Coppicer"}, recipe)
    assert words == [
        "launch",
        "--limit",
        "20",
        "--repeats",
        "1",
        "--start",
        "warm",
        "--",
        "coppicer",
        "--new",
    ]
    assert checked_plan("Q", installs(**recipe), 1, procedures=["launch:Coppicer"])


@pytest.mark.parametrize(
    ("line", "text"),
    [
        ("probe.idle", "--out /etc/x"),
        ("probe.footprint", "--since /etc/shadow"),
        ("probe.launch", "-- sh"),
        ("probe.idle", "'"),
    ],
)
def test_options_of_a_recipe_are_closed_sets(line, text):
    procedure = line.partition(".")[2]
    with pytest.raises(BadInputError):
        probe_job(procedure, {"app": "Coppicer"}, {line: text})


def test_a_plan_says_what_a_ramp_opens_and_how_often_before_the_recipe_does():
    recipe = {"app.Wayfarrow": "wayfarrow", "probe.ramp": "--steps 9 --floor 60 --mix clip"}
    words = probe_words("ramp", {"app": "Wayfarrow"}, recipe)
    assert words == ["ramp", *["--floor", "60", "--mix", "clip", "--steps", "9", "--", "wayfarrow"]]
    conditions = {"app": "Wayfarrow", "opens": "text, app:Coppicer", "pages_open": "4"}
    recipe["app.Coppicer"] = "coppicer --new"
    assert probe_words("ramp", conditions, recipe) == [
        "ramp",
        *("--floor", "60", "--mix", "text, app:Coppicer", "--steps", "4"),
        *("--app", "Coppicer=coppicer --new", "--", "wayfarrow"),
    ]
    with pytest.raises(MissingHereError, match="has no application Coppicer"):
        probe_words("ramp", conditions, {"app.Wayfarrow": "wayfarrow"})


@pytest.mark.parametrize(
    "asked",
    ["ramp:Wayfarrow:file:///etc/passwd", "ramp:Wayfarrow:text,--help", "ramp:Wayfarrow:app:X"],
)
def test_a_plan_cannot_have_a_ramp_open_just_anything(asked):
    with pytest.raises(BadInputError):
        checked_plan("Q", installs(**{"app.Wayfarrow": "wayfarrow"}), 1, procedures=[asked])


def test_what_is_asked_after_a_boot_is_written_as_a_study_writes_it():
    recipe = {
        "then": "idle --window 10 --instants none; footprint --no-walk; launch:T:first-after-boot",
        "app.T": "xterm",
    }
    made = Install(System("V"), Machine("M"), rig="guest", recipe=recipe)
    order = RunOrder(uuid4(), 1, "boot", made, 1, 1, 1)
    words = asked_words(order, ready_way("probe", 15.0))
    assert words == [
        ["boot"],
        ["idle", "--instants", "none", "--window", "10"],
        ["footprint", "--no-walk"],
        ["launch", "--repeats", "1", "--start", "first-after-boot", "--", "xterm"],
    ]


def test_what_a_machine_refuses_is_no_failure_of_the_system(bench):
    for name in ("Varrow 12", "Quillfern 8"):
        bench.library.ensure(Install(System(name), Machine("Laptop"), rig="enrolled"))
        bench.machines.enrol("Laptop", name, uuid4())
    known = [i for i in bench.library.installs() if i.machine.name == "Laptop"]
    study = bench.studies.create(checked_plan("Q", known, 1, procedures=[f"launch:{ATTACK}"]))
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    order = order_of(lease)
    job = bench.machines.put(order)
    capture = capture_for(order, outcome="failed")
    capture.reason, capture.ticket = f"{REFUSED}: not on the list", Ticket(str(order.run_id), 1)
    bench.machines.answer(job.id, dump_capture(capture))
    with pytest.raises(MissingHereError, match="Laptop: not on the list"):
        EnrolledRig(bench.machines).run(order, lambda name, at: None)
    assert not os.path.exists("/tmp/haremile-attacked")


OWN = "command:own.s.low.Sort_seeds:0.01"


def test_a_measures_command_stands_in_the_recipe_and_nowhere_else():
    with pytest.raises(BadInputError, match=r"--set measure.Sort_seeds=COMMAND"):
        checked_plan("Q", installs(), 1, procedures=[OWN])
    recipe = {"measure.Sort_seeds": "sort-seeds --fast", "probe.command": "--limit 60"}
    assert checked_plan("Q", installs(**recipe), 1, procedures=[OWN])
    stated = {"measure": "own.s.low.Sort_seeds", "measure_step": "0.01"}
    words = probe_words("command", stated, recipe)
    assert words[words.index("--") :] == ["--", "sort-seeds", "--fast"]
    pairs = dict(zip(words[1:-3:2], words[2:-3:2], strict=True))
    assert pairs == {
        "--limit": "60",
        "--measure": "own.s.low.Sort_seeds",
        "--resolution": "0.01",
        "--unit": "s",
    }
    with pytest.raises(MissingHereError, match="has no command for Sort_seeds"):
        probe_words("command", stated, {"app.Sort_seeds": "x"})


def test_what_was_defined_matters_where_a_plan_states_nothing_else():
    own = [OwnMeasure("Sort seeds", "s", GoodEnd.LOW, 0.01, Margin(amount=0.5))]
    stated = {"boot.total": Margin(amount=1.0)}
    key = own[0].key
    assert with_own_margins(stated, ["boot", OWN], own) == {key: Margin(amount=0.5), **stated}
    assert with_own_margins(stated, ["boot"], own) == stated
    assert with_own_margins({key: Margin(share=0.1)}, [OWN], own) == {key: Margin(share=0.1)}
