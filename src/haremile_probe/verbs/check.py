"""``check``: the probe measures what it knows, and says how well it measures on this machine."""

import argparse
import json
import os
import subprocess
import sys
import tempfile
from typing import Any, Dict, List, Optional, Sequence

import haremile_probe
from haremile_probe.check_application import FILE
from haremile_probe.collect.about import read_about
from haremile_probe.collect.footprint import BLOCK, Walker
from haremile_probe.collect.idle import pss_of
from haremile_probe.collect.state import remember, remembered
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.sight import CHECKED, Sight, open_sight
from haremile_probe.launching.start import LaunchPlan
from haremile_probe.parsers.settling import middle
from haremile_probe.runtime import MissingHere, Run
from haremile_probe.verbs.launch import resolution_key
from haremile_probe.wire import Capture, Fault

EXAMPLES = "example: haremile-probe check --repeats 20"
ALLOCATION_BYTES = 100 * 2**20
MOST_LOST_SHARE = 0.1
MOST_BIAS_S = 0.05
MOST_SCATTER_S = 0.1
CLOCK_STEP_S = 0.001
"""Paints are stamped in whole milliseconds by the X server."""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``check``."""
    verb.add_argument("--repeats", type=int, choices=range(2, 201), default=20, metavar="N")


def read(run: Run) -> Capture:
    """Launch the known application, read a known allocation, walk a known tree."""
    read_about(run.sources)
    found: Dict[str, Any] = {"allocation": check_allocation(), "tree": check_tree()}
    for way in CHECKED:
        name = check_key(way)
        try:
            found[name] = _check_launches(run, way)
        except MissingHere as error:
            run.sources.faults.append(Fault("absent", "%s check: %s" % (name, error)))
    run.sources.add("check", json.dumps(found, indent=1, sort_keys=True))
    fine = {
        resolution_key(way): found[check_key(way)]["resolution_s"]
        for way in CHECKED
        if "resolution_s" in found.get(check_key(way), {})
    }
    if fine:
        fault = remember("check", {**remembered("check"), **fine})
        run.sources.faults += [fault] if fault else []
    return run.capture(run.account())


def own_command(module: str) -> List[str]:
    """The command that runs one of the probe's own modules, from its folder or its archive."""
    home = os.path.dirname(os.path.dirname(os.path.abspath(haremile_probe.__file__)))
    places = [home] + [p for p in sys.path if p.endswith("site-packages")]
    code = "import sys; sys.path[:0] = %r; from %s import main; sys.exit(main())" % (places, module)
    return [sys.executable, "-I", "-c", code]


def check_key(way: str) -> str:
    """What the check of a way is called."""
    return "launch" if way == "x" else "launch by " + way


def _check_launches(run: Run, way: str) -> Dict[str, Any]:
    become_subreaper()
    sight = open_sight(way, "root" if os.geteuid() == 0 else None)
    errors: Dict[str, List[float]] = {"window": [], "settled": []}
    lost = 0
    try:
        with tempfile.TemporaryDirectory(prefix="haremile-check-") as folder:
            os.environ[FILE] = os.path.join(folder, "times")
            for number in range(run.asked.repeats):
                run.progress("%s, %d of %d" % (check_key(way), number + 1, run.asked.repeats))
                one = _one_error(sight, own_command(CHECKED[way]), os.environ[FILE])
                lost += one is None
                for name, value in (one or {}).items():
                    errors[name].append(value)
    finally:
        os.environ.pop(FILE, None)
        sight.close()
    told: Dict[str, Any] = {"launches": run.asked.repeats, "lost": lost}
    if errors["window"]:
        told.update({name: _bias(values) for name, values in errors.items() if values})
        told["resolution_s"] = max(CLOCK_STEP_S, *(_bias(v)["sd_s"] for v in errors.values() if v))
    told["not_usable_because"] = not_usable_because(told)
    if told["not_usable_because"]:
        run.warn(
            "%s: times are not usable, because %s" % (check_key(way), told["not_usable_because"])
        )
    return told


def not_usable_because(told: Dict[str, Any]) -> Optional[str]:
    """Why launches cannot be timed on this machine now, None where they can."""
    if "window" not in told:
        return "none of the known application's windows was seen"
    if told["lost"] > MOST_LOST_SHARE * told["launches"]:
        return "%d of %d known windows were not seen" % (told["lost"], told["launches"])
    for name in ("window", "settled"):
        if name not in told:
            continue  # this way tells nothing of it
        found = told[name]
        if abs(found["bias_s"]) > MOST_BIAS_S:
            return "the known %s is told %+.3f s off" % (name, found["bias_s"])
        if found["sd_s"] > MOST_SCATTER_S:
            return "the known %s scatters by %.3f s" % (name, found["sd_s"])
    return None


def _one_error(sight: Sight, command: List[str], path: str) -> Optional[Dict[str, float]]:
    """How far the probe is off the application's own record, in seconds; None if it saw nothing."""
    if os.path.exists(path):
        os.remove(path)
    found = sight.launch(command, LaunchPlan(quiet_s=0.5))
    if not found.outcome.gives_readings or found.window_s is None:
        return None
    with open(path, encoding="ascii") as file:
        told = dict(line.split() for line in file)
    off = {"window": found.spawned + found.window_s - float(told["mapped"])}
    if found.settled_s is not None:
        off["settled"] = found.spawned + found.settled_s - float(told["painted"])
    return off


def _bias(errors: Sequence[float]) -> Dict[str, float]:
    mean = sum(errors) / len(errors)
    spread = sum((error - mean) ** 2 for error in errors) / max(len(errors) - 1, 1)
    return {"bias_s": middle(errors), "sd_s": spread**0.5, "n": len(errors)}


def check_allocation() -> Dict[str, Any]:
    """Have a process take 100 MiB, and see how much its PSS grows by."""
    code = (
        "import sys\n"
        "sys.stdout.write('x'); sys.stdout.flush(); sys.stdin.read(1)\n"
        "block = bytearray(%d)\n"
        "for i in range(0, len(block), 4096): block[i] = 1 + i %% 255\n"
        "sys.stdout.write('x'); sys.stdout.flush(); sys.stdin.read(1)\n"
    ) % ALLOCATION_BYTES
    with subprocess.Popen(
        [sys.executable, "-I", "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE
    ) as child:
        assert child.stdin is not None and child.stdout is not None
        child.stdout.read(1)
        before = _pss(child.pid)
        child.stdin.write(b"x")
        child.stdin.flush()
        child.stdout.read(1)
        grown = _pss(child.pid) - before
    return {"known_bytes": ALLOCATION_BYTES, "read_bytes": grown}


def _pss(pid: int) -> int:
    with open("/proc/%d/smaps_rollup" % pid, encoding="ascii") as file:
        size = pss_of(file.read())
    if size is None:
        raise MissingHere("this kernel states no PSS of a process")
    return size


def check_tree() -> Dict[str, Any]:
    """Lay a tree of known size, with a hard link and a hole in a file, and walk it."""
    with tempfile.TemporaryDirectory(prefix="haremile-check-") as folder:
        inner = os.path.join(folder, "inner")
        os.mkdir(inner)
        for number in range(5):
            with open(os.path.join(inner, str(number)), "wb") as file:
                file.write(b"h" * 4096 * (number + 1))
                file.flush()
                os.fsync(file.fileno())
        os.link(os.path.join(inner, "0"), os.path.join(folder, "linked"))
        with open(os.path.join(folder, "hole"), "wb") as file:
            file.truncate(2**20)
        known = 4096 * 15
        for path in (folder, inner, os.path.join(folder, "hole")):
            known += os.lstat(path).st_blocks * BLOCK
        walker = Walker(folder)
        walker.walk(lambda _text: None)
    return {"known_bytes": known, "read_bytes": walker.total, "unreadable": walker.unreadable}
