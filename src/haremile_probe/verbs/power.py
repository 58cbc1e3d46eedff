"""``power``: how long the battery lasts while the machine is used in a stated way."""

import argparse
import os
import subprocess
from functools import partial
from typing import Callable, List

from haremile_probe.collect.about import read_about, read_activity
from haremile_probe.collect.power import PowerPlan, read_power
from haremile_probe.interpret.power import USES
from haremile_probe.launching.start import Launch, LaunchPlan, Outcome, start_and_watch
from haremile_probe.load.kinds import KINDS
from haremile_probe.load.signs import PageServer
from haremile_probe.runtime import BadInput, Run, positive
from haremile_probe.session_user import become, environment_for, session_user
from haremile_probe.verbs.launch import commands_for
from haremile_probe.wire import Capture

EXAMPLES = """examples: haremile-probe power --seconds 3600
          haremile-probe power --use pages --task Wayfarrow
The machine has to run on its battery. A longer watch gives a narrower answer."""

USUAL = PowerPlan()
PAGE_S = 30.0
"""A page is turned so often."""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``power``."""
    verb.add_argument("--use", choices=USES, default=USES[0], help="idle, pages turned, a clip")
    verb.add_argument("--seconds", type=positive, default=USUAL.seconds, metavar="S")
    verb.add_argument("--every", type=positive, default=USUAL.every_s, metavar="S")
    verb.add_argument("--task", metavar="NAME", help="the browser, on this machine's list or --app")
    verb.add_argument("--app", action="append", metavar="NAME=COMMAND")
    verb.add_argument("--user", metavar="NAME", help="as root: the session's user")


def read(run: Run) -> Capture:
    """Watch the battery for the stated time, in the stated use."""
    asked = run.asked
    plan = PowerPlan(asked.seconds, asked.every)
    read_about(run.sources)
    read_activity(run.sources)
    watch = partial(read_power, run.sources, plan, asked.use, run.progress)
    if asked.use == "idle":
        watch()
    elif not asked.task:
        raise BadInput("name the browser that shows the %s: --task NAME" % asked.use)
    else:
        command = commands_for([asked.task], asked.app or [])[asked.task]
        _with_browser(run, command, watch)
    return run.capture(run.account())


def _with_browser(run: Run, command: List[str], watch: Callable[..., None]) -> None:
    user, server = session_user(run.asked.user), PageServer()
    kinds = KINDS if run.asked.use == "pages" else ("clip",)
    later: List["subprocess.Popen[bytes]"] = []

    def turn(at: float) -> None:
        page = 1 + int(at / PAGE_S)
        if run.asked.use == "pages" and page > 1 + len(later):
            address = server.address(page, kinds[(page - 1) % len(kinds)])
            later.append(
                subprocess.Popen(
                    [*command, address],
                    env=environment_for(user, dict(os.environ)),
                    stdin=subprocess.DEVNULL,
                    stdout=subprocess.DEVNULL,
                    stderr=subprocess.DEVNULL,
                    preexec_fn=None if user is None else partial(become, user),  # noqa: PLW1509  # the thread that serves pages holds no lock that it needs
                )
            )

    def watched(started: object) -> Launch:
        watch(turn=turn)
        return Launch(Outcome.WINDOW, "", 0.0)

    try:
        plan = LaunchPlan(user=user)
        start_and_watch([*command, server.address(1, kinds[0])], plan, {}, watched)
    finally:
        server.close()
        for child in later:
            child.kill()
            child.wait()
