"""The search for the least memory, with boots that are told how to end; and with a real guest."""

import json

import pytest

from haremile.cli.session import present_settings
from haremile.errors import GuestDiedError, GuestHungError, NotMeasuredError, RunFailedError
from haremile.formats.guest_records import MeminfoWatch
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.least_memory import least_memory
from haremile.rigs.guest.rig import GuestRig
from haremile_probe.load.rules import StopRules
from haremile_probe.wire import Capture, CaptureReading, Evidence
from helpers import capture_for, install, order

MIB = 2**20


def search_order(sizes="64, 96, 128, 160, 192 MiB", boots="3", **recipe):
    made = install("S", rig="guest")
    asked = order(type(made)(made.system, made.machine, rig="guest", recipe=recipe))
    conditions = {"memory_steps": sizes, "boots_each": boots}
    return type(asked)(**{**vars(asked), "procedure": "least-memory", "conditions": conditions})


class Boots:
    """Gives what each boot is told: an error to raise where it has too little memory."""

    def __init__(self, least, error):
        self.least, self.error, self.orders = least, error, []

    def __call__(self, asked) -> Capture:
        self.orders.append(asked)
        if int(asked.install.recipe["memory_mib"]) < self.least:
            raise self.error
        made = capture_for(asked)
        made.conditions["memory"] = "whatever it was"
        return made


def run(boots, **asked):
    phases = []
    found = least_memory(search_order(**asked), boots, lambda name, at: phases.append(name))
    return found, phases


def test_the_answer_is_a_reading_with_every_try_as_evidence():
    boots = Boots(128, GuestHungError("nothing came", log_tail="the last line"))
    found, phases = run(boots, image="osterfell-base", then="idle")
    assert found.readings == [
        CaptureReading("least.memory", 128 * MIB, "B", "host-marker", 32.0 * MIB)
    ]
    assert "memory" not in found.conditions
    assert found.conditions["memory_steps"] == "64, 96, 128, 160, 192 MiB"
    tries = json.loads(found.text_of("tries"))
    assert [row[:2] for row in tries["rows"]] == [
        [192, "ready"],
        [96, "never ready"],
        [128, "ready"],
        [128, "ready"],
        [128, "ready"],
    ]
    assert found.text_of("boot 2, 96 MiB, never ready") == "the last line"
    assert phases[0] == "boot 1 with 192 MiB"
    assert len(phases) == len(boots.orders)
    assert {one.procedure for one in boots.orders} == {"boot"}
    assert {one.install.recipe["then"] for one in boots.orders} == {""}
    limits = [one.install.recipe.get("ready_limit_s") for one in boots.orders]
    assert limits == [None, "20", "20", "20", "20"]


@pytest.mark.parametrize(
    ("error", "kind"),
    [
        (GuestDiedError("it ended"), "ended by itself"),
        (GuestDiedError("it ended", "Kernel panic - not syncing: VFS"), "panic"),
        (
            GuestDiedError("it ended", "Kernel panic: System is deadlocked on memory"),
            "out of memory",
        ),
        (GuestHungError("no mark"), "never ready"),
    ],
)
def test_failures_have_their_kind(error, kind):
    found, _ = run(Boots(192, error))
    assert kind in {row[1] for row in json.loads(found.text_of("tries"))["rows"]}


class Ramps(Boots):
    """Ramps that carry every page from a size on, and below it end by the floor."""

    def __call__(self, asked) -> Capture:
        self.orders.append(asked)
        carried = 4 if int(asked.install.recipe["memory_mib"]) >= self.least else 2
        sample = {"used": 9 * MIB, "tree": None, "swap_used": 0}
        note = {
            "command": ["wayfarrow"],
            "page_set": "1",
            "before": sample,
            "limit": None,
            "steps": [
                {"number": n, "painted_s": 1.0, "sample": sample, "worst_delay_s": 0.0}
                for n in range(1, carried + 1)
            ],
            "carried": carried,
            "ended": "all pages" if carried == 4 else "memory floor",
            "rules": StopRules()._asdict(),
        }
        made = capture_for(asked)
        made.asked = "ramp"
        made.readings = [CaptureReading("ramp.steps", float(carried), "1", "probe")]
        made.evidence = [Evidence("ramp", json.dumps(note))]
        return made


def test_so_many_pages_can_be_asked_of_the_answer_too():
    asked = search_order()
    conditions = {**asked.conditions, "app": "Wayfarrow", "pages_open": "4"}
    asked = type(asked)(**{**vars(asked), "conditions": conditions})
    ramps = Ramps(128, None)
    found = least_memory(asked, ramps, lambda name, at: None)
    assert found.readings == [CaptureReading("least.pages", 128 * MIB, "B", "probe", 32.0 * MIB)]
    assert {one.procedure for one in ramps.orders} == {"ramp"}
    assert ramps.orders[0].conditions == {"app": "Wayfarrow", "pages_open": "4"}
    tries = json.loads(found.text_of("tries"))["rows"]
    assert [96, "memory floor at page 3"] in [row[:2] for row in tries]
    with pytest.raises(RunFailedError, match="4 pages of Wayfarrow not carried 3 times of 3"):
        least_memory(asked, Ramps(10_000, None), lambda name, at: None)


def test_the_smallest_size_of_all_has_no_step_below_it():
    found, _ = run(Boots(1, None))
    assert (found.readings[0].value, found.readings[0].resolution) == (64 * MIB, None)


def test_one_that_is_never_ready_has_failed_and_what_could_not_be_tried_has_not():
    with pytest.raises(RunFailedError, match="not ready 3 times of 3 even with 192 MiB") as caught:
        run(Boots(10_000, GuestHungError("no mark")))
    assert json.loads(caught.value.evidence[0].text)["rows"][0][1] == "never ready"
    with pytest.raises(NotMeasuredError):
        run(Boots(10_000, GuestDiedError("QEMU did not start: no room")))


def test_two_searches_of_a_real_guest_by_the_counted_clock_are_equal():
    images = GuestImages(present_settings().guests)
    rig = GuestRig(images, lambda: "tcg", MeminfoWatch)
    asked = {"image": "osterfell-base", "clock": "counted"}
    found = [
        rig.run(search_order("48, 72, 96 MiB", "1", **asked), lambda name, at: None)
        for _ in range(2)
    ]
    assert found[0].readings == found[1].readings
    assert 48 * MIB < found[0].readings[0].value <= 96 * MIB
    tries = [json.loads(one.text_of("tries"))["rows"] for one in found]
    assert [row[:2] for row in tries[0]] == [row[:2] for row in tries[1]]


def test_a_search_that_is_ended_boots_no_more():
    rig = GuestRig(GuestImages(present_settings().guests), lambda: "tcg", MeminfoWatch)
    asked = search_order(image="osterfell-base")

    def stop(name, at):
        rig.interrupt(asked.run_id)

    with pytest.raises(NotMeasuredError, match="the search was ended"):
        rig.run(asked, stop)
