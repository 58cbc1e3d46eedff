"""``idle``: memory once it has settled, under every definition."""

import argparse
from typing import List

from haremile_probe.collect.about import read_about, read_activity
from haremile_probe.collect.idle import INSTANTS_S, IdlePlan, read_idle
from haremile_probe.parsers.settling import SettleRule
from haremile_probe.runtime import Run, positive
from haremile_probe.wire import Capture

EXAMPLES = """examples: haremile-probe idle
          haremile-probe idle --window 3 --instants none"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``idle``."""
    rule = SettleRule()
    verb.add_argument(
        "--window",
        type=positive,
        default=rule.window_s,
        metavar="SECONDS",
        help="settled when memory keeps still for so long (%g)" % rule.window_s,
    )
    verb.add_argument(
        "--limit",
        type=positive,
        default=rule.timeout_s,
        metavar="SECONDS",
        help="when watching ends (%g)" % rule.timeout_s,
    )
    shown = ",".join("%g" % at for at in INSTANTS_S)
    verb.add_argument(
        "--instants",
        type=_instants,
        default=list(INSTANTS_S),
        metavar="S,S,…",
        help="seconds since boot at which memory is read too, or none (%s)" % shown,
    )


def read(run: Run) -> Capture:
    """Read what is asked for, and make a capture of it."""
    rule = SettleRule(window_s=run.asked.window, timeout_s=run.asked.limit)
    read_about(run.sources)
    read_activity(run.sources)
    read_idle(run.sources, IdlePlan(rule, run.asked.instants), run.progress)
    return run.capture(run.account())


def _instants(text: str) -> List[float]:
    return [] if text == "none" else [float(round(positive(word))) for word in text.split(",")]
