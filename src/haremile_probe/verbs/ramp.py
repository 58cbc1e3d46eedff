"""``ramp``: an application is given one more page or document until a stated rule ends it."""

import argparse
import json
from typing import List

from haremile_probe.collect.about import read_about, read_activity, read_applications
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.load.group import group_of
from haremile_probe.load.kinds import KINDS, applications_of, parse_mix
from haremile_probe.load.ramp import SETTLE_S, RampPlan, ramp
from haremile_probe.load.rules import MIB, StopRules
from haremile_probe.runtime import Refused, Run, positive
from haremile_probe.session_user import session_user
from haremile_probe.verbs.launch import command_of, commands_for, running_instance
from haremile_probe.wire import Capture

EXAMPLES = """examples: haremile-probe ramp --steps 12 -- wayfarrow --new-window
          haremile-probe ramp --mix text,sheet --steps 8 -- coppicer
          haremile-probe ramp --steps 40 --limit-memory 700 -- wayfarrow   (as root)"""

USUAL = StopRules()


def read(run: Run) -> Capture:
    """Ramp until a rule ends it; what was read at each step, and which rule it was, is kept."""
    asked = run.asked
    command = command_of(asked.command)
    pid = running_instance(command)
    if pid is not None:
        raise Refused("%s already runs as process %d; close it first" % (command[0], pid))
    rules = StopRules(
        steps=asked.steps,
        launch_s=asked.limit,
        silence_s=asked.silence,
        delay_s=asked.delay,
        floor=asked.floor * MIB,
        swap_growth=asked.swap_growth * MIB,
        pressure=asked.pressure / 100.0,
    )
    mix = list(asked.mix or KINDS)
    plan = RampPlan(
        rules,
        asked.settle,
        session_user(asked.user),
        mix,
        commands_for(applications_of(",".join(mix)), asked.app or []),
    )
    read_about(run.sources)
    read_activity(run.sources)
    become_subreaper()
    group = group_of(asked.limit_memory)
    try:
        found = ramp(command, plan, group, run.progress)
    finally:
        if group is not None:
            group.close()
    read_applications(run.sources, [command[0]])
    told = {**found.facts(), "command": command, "rules": rules._asdict()}
    run.sources.add("ramp", json.dumps(told, indent=1, sort_keys=True))
    return run.capture(run.account())


def _mix(text: str) -> List[str]:
    try:
        return parse_mix(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from None


def _whole(text: str) -> int:
    return int(positive(text))


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``ramp``."""
    verb.add_argument("--steps", type=int, choices=range(1, 201), default=USUAL.steps, metavar="N")
    for name, default, says in (
        ("--limit", USUAL.launch_s, "a page that is not painted by then timed out (60)"),
        ("--silence", USUAL.silence_s, "a page that says nothing for so long is lost (8)"),
        ("--delay", USUAL.delay_s, "signs of life that come later than this (5)"),
        ("--settle", SETTLE_S, "a page is carried once it held for so long (4)"),
    ):
        verb.add_argument(name, type=positive, default=default, metavar="SECONDS", help=says)
    for name, size, says in (
        ("--floor", USUAL.floor // MIB, "memory that stays available (48)"),
        ("--swap-growth", USUAL.swap_growth // MIB, "more swap in use than before (256)"),
        ("--limit-memory", None, "as root: so much memory for the application alone"),
    ):
        verb.add_argument(name, type=_whole, default=size, metavar="MIB", help=says)
    verb.add_argument(
        "--pressure",
        type=positive,
        default=100 * USUAL.pressure,
        metavar="PERCENT",
        help="share of time that something waits for memory (40)",
    )
    verb.add_argument(
        "--mix",
        type=_mix,
        metavar="KINDS",
        help="what the steps open, in turns: reading, gallery, clip, workshop, text, sheet, "
        "drawing, picture, app:NAME, or an address of your own (reading,gallery,clip,workshop)",
    )
    verb.add_argument(
        "--app",
        action="append",
        metavar="NAME=COMMAND",
        help="what app:NAME stands for, where this machine's own list does not say it",
    )
    verb.add_argument("--user", metavar="NAME", help="as root: the session's user")
    verb.add_argument("command", nargs=argparse.REMAINDER, help="-- COMMAND … or NAME.desktop")
