"""``work``: ask the server for the next step, do it, and so on."""

import argparse

from haremile_probe.enrolled.enrolment import read_enrolment
from haremile_probe.enrolled.server import ServerRefused
from haremile_probe.enrolled.work import Worker
from haremile_probe.runtime import Refused, Run

EXAMPLES = "example: haremile-probe work   (started by itself after each boot, once enrolled)"


def arguments(_verb: argparse.ArgumentParser) -> None:
    """``work`` has none of its own."""


def act(run: Run) -> int:
    """Work until a signal ends it."""
    try:
        Worker(read_enrolment(), run.progress).work()
    except ServerRefused as error:
        raise Refused("the server refused this machine: %s" % error) from None
    return 0
