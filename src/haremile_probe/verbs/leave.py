"""``leave``: work for no server any more, and remove everything that enrolling left here."""

import argparse
import os
import shutil

from haremile_probe.enrolled.comeback import stay_away
from haremile_probe.enrolled.enrolment import home_folder, read_enrolment
from haremile_probe.enrolled.outbox import waiting
from haremile_probe.runtime import Refused, Run

EXAMPLES = "example: haremile-probe leave"


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``leave``."""
    verb.add_argument("--drop", action="store_true", help="also captures that wait for the server")


def act(run: Run) -> int:
    """Remove the way back and the folder; captures that wait are not dropped unasked."""
    enrolment = read_enrolment()
    left = waiting()
    if left and not run.asked.drop:
        raise Refused(
            "%d captures wait for the server in %s; take them in there, or give --drop"
            % (len(left), os.path.dirname(left[0]))
        )
    for removed in stay_away(enrolment.ways or {}):
        print("removed: %s" % removed)
    shutil.rmtree(home_folder())
    print("removed: %s" % home_folder())
    return 0
