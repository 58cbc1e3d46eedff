"""``response``: from a key to the first pixels that change, at rest and beside other work."""

import argparse
import json
import os
from typing import Any, Dict, List, Optional

from haremile_probe.collect.about import read_about, read_activity, read_applications
from haremile_probe.collect.rates import usual_folder
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.start import Launch, LaunchPlan
from haremile_probe.load.busy import MOST_PROCESSES, Busy
from haremile_probe.runtime import BadInput, Refused, Run, positive
from haremile_probe.session_user import session_user
from haremile_probe.verbs.launch import command_of, running_instance
from haremile_probe.wire import Capture
from haremile_probe.x.display import while_displayed
from haremile_probe.x.launch import launch
from haremile_probe.x.response import MENU, MENUS, PAIRS, Keys, KeysPlan
from haremile_probe.x.watch import Window, WindowWatch

EXAMPLES = """examples: haremile-probe response -- xterm
          haremile-probe response --press arrow --keys 100 -- coppicer
          haremile-probe response -- menu:super   (the session's own menu, opened by that key)
It is started, keys are sent to it, and it is ended. Where text can be typed, letters are pressed
and taken back; nothing is ever confirmed with Enter. A menu is closed with Escape. Its key is one
of: super, menu, alt-f1, ctrl-escape, super-space."""

USUAL = KeysPlan()


def processes(text: str) -> int:
    """An argument that is a number of processes."""
    if not text.isdigit() or int(text) > MOST_PROCESSES:
        raise argparse.ArgumentTypeError("0 to %d processes, not %s" % (MOST_PROCESSES, text))
    return int(text)


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``response``."""
    verb.add_argument("--keys", type=int, choices=range(10, 501), default=USUAL.keys, metavar="N")
    verb.add_argument("--press", choices=list(PAIRS), default=USUAL.pair)
    verb.add_argument(
        "--busy",
        type=processes,
        default=len(os.sched_getaffinity(0)),
        metavar="N",
        help="then beside so many busy processes and one that writes (0: at rest alone)",
    )
    verb.add_argument("--limit", type=positive, default=LaunchPlan().limit_s, metavar="SECONDS")
    verb.add_argument("--user", metavar="NAME", help="as root: the session's user")
    verb.add_argument("command", nargs=argparse.REMAINDER, help="-- COMMAND … or NAME.desktop")


def read(run: Run) -> Capture:
    """Start it, send keys until all are answered, and end it; every answer is kept."""
    asked = run.asked
    command = command_of(asked.command)
    menu = menu_of(command)
    pid = None if menu else running_instance(command)
    if pid is not None:
        raise Refused("%s already runs as process %d; close it first" % (command[0], pid))
    read_about(run.sources)
    read_activity(run.sources)
    become_subreaper()
    watch = WindowWatch()
    pressing = _Pressing(run, watch, menu)
    why: Dict[str, Any] = {"reason": None, "is_ours": False}
    try:
        with while_displayed():
            if menu:
                pressing.press(None)
            else:
                plan = LaunchPlan(limit_s=asked.limit, user=session_user(asked.user))
                why = _why(launch(watch, command, plan, pressing.press), pressing)
    finally:
        watch.close()
    if not menu:
        read_applications(run.sources, [command[0]])
    told = {**pressing.told, **why, "command": command}
    run.sources.add("response", json.dumps(told, indent=1, sort_keys=True))
    account = run.account()
    account.condition("app", command[0].rpartition("/")[2])
    return run.capture(account)


def menu_of(command: List[str]) -> Optional[str]:
    """The key of the session's own menu, where ``menu:KEY`` is the command; raises BadInput."""
    if not command[0].startswith(MENU):
        return None
    key = command[0][len(MENU) :]
    if key not in MENUS or len(command) > 1:
        raise BadInput("a menu's key is one of %s, not %s" % (", ".join(MENUS), key[:40]))
    return key


def _why(found: Launch, pressing: "_Pressing") -> Dict[str, Any]:
    """Why no key was sent, where none was, and whether that is of ours."""
    if pressing.told["answers"]:
        return {"reason": None, "is_ours": False}
    reason = ", ".join(part for part in (found.outcome.value, found.detail) if part)
    is_ours = found.outcome.name in ("NOT_FOUND", "NOT_EXECUTABLE")
    return {"reason": reason, "is_ours": is_ours}


class _Pressing:
    """The keys of one application or menu, at rest first, then beside other work."""

    def __init__(self, run: Run, watch: WindowWatch, menu: Optional[str]):
        self._run, self._watch, self._menu = run, watch, menu
        self.told: Dict[str, Any] = {"answers": {}, "busy": "", "blinks_s": None}

    def press(self, window: Optional[Window]) -> None:
        """Send them, once the window is at rest."""
        asked = self._run.asked
        keys = Keys(self._watch, window, KeysPlan(asked.keys, asked.press, menu=self._menu))
        self.told["blinks_s"] = None if keys.blinking is None else keys.blinking.period_s
        self.told["pressed"] = self._menu or asked.press
        self._run.progress("%d keys, at rest" % asked.keys)
        self.told["answers"]["rest"] = keys.answers()
        if not asked.busy:
            return
        busy = Busy(asked.busy, usual_folder())
        try:
            self._run.progress("%d keys, beside %s" % (asked.keys, busy.said))
            found: List[Optional[float]] = keys.answers()
            lacking = busy.lacking()
        finally:
            busy.close()
        if lacking:
            self._run.warn("%d of the busy processes ended by themselves" % lacking)
            return
        self.told["answers"]["busy"], self.told["busy"] = found, busy.said
