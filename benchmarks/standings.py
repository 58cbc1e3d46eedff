"""Standings: how often their intervals cover on bench books of known truth, and the page over 200
studies, 40 systems and 12 measures (about 300,000 readings) against the empty page of the same
server, cold, and after one new run; growth from 20 studies on.

``--calibration`` for the first alone, ``--speed`` for the answers, ``--page`` for the page in a
browser.
"""

import os
import statistics
import sys
import time
from collections.abc import Iterator

import httpx
import numpy as np
from common import spread, throwaway_bench
from large_studies import serving
from playwright.sync_api import sync_playwright
from study_page import FLAGS, inside, load_ms, served

from haremile.bootstrap import Bench
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.study import Install, Machine, System
from haremile.core.simulation.bench_book import BookTruth, simulated_book, system_name
from haremile.core.standing.arms import Arm
from haremile.core.standing.standings import standings
from haremile.usecases.import_readings import import_study
from haremile.usecases.plan import checked_plan

BOOKS = 600
SPREAD = tuple(np.linspace(-0.15, 0.15, 7))
TRUTHS = {
    "linked, 12 studies of 4": BookTruth(SPREAD),
    "drifting machine": BookTruth(SPREAD, drift=0.03),
    "6 studies": BookTruth(SPREAD, studies=6),
    "pairs only, 14 studies": BookTruth(SPREAD, studies=14, contenders=2),
    "3 repeats": BookTruth(SPREAD, repeats=3),
    "studies differ by 6 %": BookTruth(SPREAD, deviation=0.06),
    "studies do not differ": BookTruth(SPREAD, deviation=0.0),
    "2 machines, 4 % apart": BookTruth(SPREAD, machines=2, by_machine=0.04),
    "3 machines, 4 % apart": BookTruth(SPREAD, machines=3, by_machine=0.04, studies=16),
    "3 machines, alike": BookTruth(SPREAD, machines=3, studies=16),
    "no difference at all": BookTruth((0.0,) * 7),
}


def recovered(truth: BookTruth) -> tuple[float, float, float, float]:
    """Shares: intervals that cover, books whose places all hold, false records, records."""
    true = {system_name(at): effect for at, effect in enumerate(truth.effects)}
    is_level = len(set(truth.effects)) == 1
    covered, held, false, records = [], [], [], []
    for seed in range(BOOKS):
        arms = [
            Arm(lane.study, "", lane.machine, lane.system, lane.values, [{}], lane.at)
            for lane in simulated_book(truth, 10_000 + seed)
        ]
        found = standings(arms, GoodEnd.LOW)
        if found is None or len(found.rows) < 2:
            continue
        names = [row.system for row in found.rows]
        weights = [sum(arm.name == name for arm in arms) for name in names]
        middle = np.average([true[name] for name in names], weights=weights)
        level = np.average([np.log(row.value) for row in found.rows], weights=weights)
        for row in found.rows:
            if row.interval is not None:
                at = np.exp(level + true[row.system] - middle)
                covered.append(row.interval.low <= at <= row.interval.high)
        best = sorted(names, key=lambda name: true[name])
        if not is_level:
            held.append(
                all(r.place.first <= best.index(r.system) + 1 <= r.place.last for r in found.rows)
            )
        else:
            held.append(all(r.place.last - r.place.first == len(names) - 1 for r in found.rows))
        records.append(found.record is not None)
        false.append(found.record is not None and (is_level or found.record != best[0]))
    return tuple(100 * float(np.mean(one)) for one in (covered, held, false, records))  # type: ignore[return-value]


def calibration() -> None:
    """The table of docs/methods.md."""
    print("| bench books | intervals cover | places hold | false records | records |")
    print("|---|---|---|---|---|")
    for name, truth in TRUTHS.items():
        print(
            f"| {name} | " + " | ".join(f"{one:.1f}" for one in recovered(truth)) + " |", flush=True
        )


METRICS = {
    "boot.total": "s",
    "boot.kernel": "s",
    "boot.userspace": "s",
    "memory.used": "MiB",
    "memory.used_nocache": "MiB",
    "memory.pss": "MiB",
    "disk.used": "MiB",
    "process.count": "1",
    "package.count": "1",
    "rate.cpu_one": "1/s",
    "rate.mem_read": "MiB/s",
    "rate.mem_write": "MiB/s",
}
SYSTEMS, CONTENDERS, REPEATS, ROUNDS = 40, 8, 16, 5


def rows(seed: int) -> Iterator[str]:
    generator = np.random.default_rng(seed)
    level = np.exp(generator.normal(0.0, 0.05))
    for system in generator.choice(SYSTEMS, CONTENDERS, replace=False):
        for metric, unit in METRICS.items():
            middle = (100 + 5 * system) * level * np.exp(generator.normal(0.0, 0.02))
            for run, value in enumerate(middle * np.exp(generator.normal(0.0, 0.02, REPEATS))):
                shown = round(value) if unit == "1" else round(value, 4)
                yield f"Varrow {system},Bench {seed % 4},{metric},{shown},{unit},{run}\n"


def fill(bench: Bench, first: int, last: int) -> None:
    for number in range(first, last):
        text = "system,machine,metric,value,unit,run\n" + "".join(rows(number))
        import_study(bench.studies, bench.readings, f"Study {number}", text.encode())


def timed(client: httpx.Client, path: str) -> float:
    begun = time.perf_counter()
    client.get(path).raise_for_status()
    return 1000.0 * (time.perf_counter() - begun)


def speed() -> None:
    """Milliseconds of the answers behind the page, beside one that needs no database."""
    asked = {
        "list": "/api/standings?metric=memory.used",
        "list of one machine": "/api/standings?metric=memory.used&machine=Bench+1",
        "totals of three": "/api/totals",
    }
    with throwaway_bench() as bench:
        took: dict[int, dict[str, float]] = {}
        for studies, before in ((20, 0), (200, 20)):
            fill(bench, before, studies)
            with (
                serving(bench) as (address, key),
                httpx.Client(
                    base_url=address, headers={"Authorization": f"Bearer {key}"}, timeout=120
                ) as client,
            ):
                while not all(one["is_current"] for one in client.get("/api/studies").json()):
                    time.sleep(1.0)
                empty = statistics.median(timed(client, "/api/metrics") for _ in range(ROUNDS))
                found = {"bare answer": empty, "first list, cold": timed(client, asked["list"])}
                for name, path in asked.items():
                    found[name] = statistics.median(timed(client, path) for _ in range(ROUNDS))
                fill(bench, 1000 + studies, 1001 + studies)
                found["list after one new study"] = timed(client, asked["list"])
                took[studies] = found
        readings = 200 * CONTENDERS * len(METRICS) * REPEATS
        print(f"{readings} readings, {SYSTEMS} systems, {len(METRICS)} measures")
        for name in took[200]:
            few, many = took[20][name], took[200][name]
            growth = f"{many / few:.1f} times"
            print(f"{name:>26}: {few:7.0f} ms at 20 studies, {many:7.0f} ms at 200: {growth}")


def page() -> None:
    """The page in a browser, cold, again and after one new study, beside the empty page."""
    flags = [*FLAGS, *(["--no-sandbox"] if os.geteuid() == 0 else [])]
    with throwaway_bench() as bench, sync_playwright() as playwright:
        fill(bench, 0, 200)
        pair = [Install(System(name), Machine("Bench 0")) for name in ("A", "B")]
        empty = bench.studies.create(checked_plan("Empty", pair, 1, 1))
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)
        with served(bench.url) as entry:
            base, kept = inside(browser, entry)
            root = base.removesuffix("studies")
            asked = {
                "empty page": (f"studies/{empty.id}/findings", "h2"),
                "standings": ("standings?metric=memory.used", "svg.picture"),
            }

            def load(name: str) -> float:
                path, seen = asked[name]
                return float(load_ms(browser, kept, root + path, seen))

            load("empty page")  # the server has just begun
            found = {"standings, cold": [load("standings")]}
            for _ in range(ROUNDS):
                for name in asked:
                    found.setdefault(name, []).append(load(name))
            for number in range(ROUNDS):
                fill(bench, 2000 + number, 2001 + number)
                found.setdefault("after one new study", []).append(load("standings"))
        browser.close()
    middle = statistics.median(found["empty page"])
    for name, values in found.items():
        ratio = statistics.median(values) / middle
        print(f"{name:>20} {spread(values, 'ms', 0)}  {ratio:.2f} times the empty page")


if __name__ == "__main__":
    chosen = {name for name in ("--speed", "--calibration", "--page") if name in sys.argv}
    for name, run in (("--calibration", calibration), ("--speed", speed), ("--page", page)):
        if not chosen or name in chosen:
            run()
