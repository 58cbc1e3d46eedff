"""How far the probe's launch times are off a log of what passed between application and server.

``launch_truth.py [LAUNCHES]``: each application under each window manager, quiet and beside twelve
busy processes, warm and with dropped caches. Median and scatter in milliseconds.
"""

import os
import shutil
import statistics
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "tests"), str(ROOT / "src")]

from ground_truth import APPLICATIONS, MANAGERS, Truth, busy, managed_by, measured  # noqa: E402
from haremile.processes import child_environment  # noqa: E402
from haremile_probe.launching.process_tree import become_subreaper  # noqa: E402
from haremile_probe.launching.start_condition import drop_caches  # noqa: E402
from haremile_probe.x.watch import WindowWatch  # noqa: E402
from helpers import running  # noqa: E402

LOAD = 12


def ms(values: list[float]) -> str:
    if not values:
        return "-"
    spread = statistics.pstdev(values) if len(values) > 1 else 0.0
    return f"{1000 * statistics.median(values):+.1f} ±{1000 * spread:.1f}"


def told(truths: list[Truth]) -> str:
    good = [one for one in truths if one.window_off is not None]
    outcomes = sorted({one.found.outcome.value for one in truths})
    window = [one.window_off for one in good if one.window_off is not None]
    settled = [one.settled_off for one in good if one.settled_off is not None]
    manager = [one.manager_s for one in good if one.manager_s is not None]
    return f"{ms(window):>14} {ms(settled):>14} {ms(manager):>14}  {', '.join(outcomes)}"


def rows(name: str, repeats: int, watch: WindowWatch, folder: Path) -> None:
    warm = [measured(watch, name, folder) for _ in range(repeats + 1)][1:]
    print(f"  {name:<9} warm      {told(warm)}", flush=True)
    if os.geteuid() == 0:
        cold = []
        for _ in range(repeats):
            drop_caches(warm[-1].found.files)
            cold.append(measured(watch, name, folder))
        faults = [
            [one.found.paging.get("pgmajfault", 0) for one in group] for group in (warm, cold)
        ]
        main = [
            statistics.median([one.found.main_s or 0.0 for one in group]) for group in (warm, cold)
        ]
        order = "in order" if min(faults[1]) > max(faults[0]) else "NOT in order"
        print(
            f"  {name:<9} cold      {told(cold)}; main window {main[0]:.3f} → {main[1]:.3f} s,"
            f" major faults {statistics.median(faults[0]):.0f} → {statistics.median(faults[1]):.0f}"
            f" {order}",
            flush=True,
        )
    with busy(LOAD):
        laden = [measured(watch, name, folder) for _ in range(repeats)]
    print(f"  {name:<9} load {LOAD}   {told(laden)}", flush=True)


def under(manager: str, repeats: int, display: str) -> None:
    print(f"{manager:<20}  {'window':>14} {'settled':>14} {'manager':>14}  outcome", flush=True)
    watch = WindowWatch()
    try:
        for name in APPLICATIONS:
            if shutil.which(APPLICATIONS[name][0]) is None:
                print(f"  {name:<9} is not here")
                continue
            with tempfile.TemporaryDirectory(prefix="haremile-truth-") as folder:
                rows(name, repeats, watch, Path(folder))
    finally:
        watch.close()


def main() -> None:
    repeats = int(sys.argv[1]) if len(sys.argv) > 1 else 5
    become_subreaper()
    server = ["Xvfb", "-displayfd", "1", "-screen", "0", "1280x800x24", "-nolisten", "tcp"]
    with running([*server, "-noreset"], child_environment()) as started:
        display = f":{started.stdout.readline().strip()}"
        os.environ["DISPLAY"] = display
        os.environ.pop("WAYLAND_DISPLAY", None)
        for manager, command in MANAGERS.items():
            if not command:
                under(manager, repeats, display)
            elif shutil.which(command[0]) is None:
                print(f"{manager} is not here")
            else:
                with managed_by(command, display):
                    under(manager, repeats, display)


if __name__ == "__main__":
    main()
