"""A boot run against the bare boot, and the host's marks against the guest's own clock."""

import json
import statistics
import time

from common import spread, throwaway_bench

from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.spec import GuestSpec
from haremile.usecases.plan import guest_installs
from haremile.usecases.ports import StudyPlan
from haremile_probe.wire import load_capture

PAIRS = 20


def bare_boot(images, name: str, accelerator: str) -> float:
    """Start, boot to ready, power off: nothing asked, nothing kept."""
    begun = time.monotonic()
    with GuestMachine(GuestSpec(images.kernel, images.initrd(name), accelerator)) as guest:
        start = guest.power_on()
        next(line for line in guest.serial.follow(start + 60) if "HM-MARK ready" in line.text)
        next(iter(guest.port.follow(start + 60)))
        guest.port.send("off")
        guest.wait_off(20)
    return time.monotonic() - begun


def marks_of(capture) -> dict[str, tuple[float, float]]:
    rows = json.loads(capture.text_of("marks"))["rows"]
    return {name: (host_s, uptime_s) for name, host_s, uptime_s in rows}


def main() -> None:
    with throwaway_bench() as bench:
        laden = guest_installs(bench.host)[1]
        study = bench.studies.create(StudyPlan("benchmark", [laden], PAIRS, 1))
        accelerator = bench.conductor._rigs["guest"]._accelerator()
        runs, bares, settlings, ratios = [], [], [], []
        state = {"done": 0}
        begun = [time.monotonic()]

        def between() -> bool:
            """After each run: note its length, then boot once barely."""
            if state["done"]:
                runs.append(time.monotonic() - begun[0])
                bares.append(bare_boot(bench.images, "osterfell-laden", accelerator))
            state["done"] += 1
            begun[0] = time.monotonic()
            return False

        bench.conductor.conduct(study.id, between)
        differences = []
        for run in bench.studies.runs(study.id):
            capture = load_capture(bench.readings.capture_of_run(run.id).body)
            trace = capture.traces[0]
            settlings.append(trace.times_s[-1] - trace.times_s[0])
            (h0, g0), (h1, g1) = marks_of(capture)["userspace"], marks_of(capture)["ready"]
            differences.append(1000 * ((h1 - h0) - (g1 - g0)))
        for run, bare, settling in zip(runs, bares, settlings, strict=True):
            ratios.append((run - settling) / bare)
        print("accelerator", accelerator)
        print("bare boot, start to off      ", spread(bares))
        print("boot run, lease to stored    ", spread(runs))
        print("  of which settling          ", spread(settlings))
        print("(run - settling) / bare      ", spread(ratios, "", 3))
        print("host marks minus guest clock ", spread(differences, "ms", 1))
        print(
            f"  bias {statistics.mean(differences):+.1f} ms, "
            f"scatter (sd) {statistics.stdev(differences):.1f} ms; "
            "the guest's clock itself has steps of 10 ms"
        )


if __name__ == "__main__":
    main()
