"""Launches that are filmed from outside: what the changes of a screen say of them."""

import json

import numpy as np

from haremile.errors import GuestDiedError
from haremile.rigs.guest.film import Changed, Film, Held, held_in, readings_of, settled_in
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.sight import open_sight
from haremile_probe.launching.start import LaunchPlan, Outcome
from haremile_probe.wire import Evidence
from helpers import capture_for, install, order


def picture(shade):
    pixels = np.full((48, 64, 3), shade, np.uint8)
    return b"P6 64 48 255\n" + pixels.tobytes()


class Screen:
    """Shows one picture after the other, and says when the last was looked at."""

    def __init__(self, shades):
        self.shades, self.looks = list(shades), 0

    def frame(self):
        if self.looks == len(self.shades):
            raise GuestDiedError("it is off")
        self.looks += 1
        return picture(self.shades[self.looks - 1])


def test_a_film_keeps_when_the_screen_changed_and_why_it_ended():
    film = Film(Screen([0, 0, 200, 200, 90]))
    with film:
        film._thread.join()  # it ends with the guest
    assert len(film.changes) == 2
    assert all(change.after < change.at for change in film.changes)
    assert "it is off" in film.fault


def test_times_run_from_the_start_to_the_first_and_the_last_change_before_the_end():
    changes = [Changed(9.9, 10.0), Changed(11.0, 11.2), Changed(12.0, 12.2), Changed(15.0, 15.1)]
    readings, faults = readings_of([Held(10.5, 14.0), None, Held(20.0, 22.0)], changes)
    assert [(r.metric, round(r.value, 3), r.method, r.step) for r in readings] == [
        ("launch.window", 0.6, "screen", 0),
        ("launch.settled", 1.6, "screen", 0),
    ]
    assert round(readings[0].resolution, 3) == 0.2
    assert [fault.what for fault in faults] == [
        "launch 3: nothing changed on the screen until it was ended"
    ]


def test_the_guests_uptime_is_put_on_the_hosts_clock():
    capture = capture_for(order(install("A")))
    told = [{"began_uptime": 40.0, "held_s": 3.5}, {"began_uptime": 50.0, "held_s": None}]
    capture.evidence = [Evidence("launches", json.dumps({"launches": told}))]
    assert held_in(capture, 1000.0) == [Held(1040.0, 1043.5), None]


def test_the_probe_holds_a_launch_until_it_rests():
    become_subreaper()
    found = open_sight("outside", None).launch(["sleep", "100"], LaunchPlan(limit_s=20.0))
    assert found.outcome is Outcome.HELD
    assert 3.0 <= found.held_s < 20.0


def test_what_ends_by_itself_is_not_held():
    become_subreaper()
    found = open_sight("outside", None).launch(["false"], LaunchPlan(limit_s=20.0))
    assert (found.outcome, found.detail) == (Outcome.NO_WINDOW, "code 1")


def test_a_desktop_has_settled_at_the_last_change_before_the_screen_first_keeps_still():
    changes = [Changed(10.9, 11.0), Changed(13.9, 14.0), Changed(30.0, 30.1)]
    assert settled_in(changes, began=10.0, quiet_s=5.0) == changes[1]
    assert settled_in(changes, began=10.0, quiet_s=20.0) == changes[2]
    assert settled_in(changes[2:], began=10.0, quiet_s=5.0) == Changed(10.0, 10.0)
    assert settled_in([], began=10.0, quiet_s=5.0) == Changed(10.0, 10.0)
