"""The list of 500 studies and the library of 300 systems against the empty page, in a browser; and
what a plan of eight contenders on three machines tells of twelve measures, after each keystroke.
"""

import os
import statistics
import time
from collections import defaultdict

import httpx
from common import spread, throwaway_bench
from large_studies import serving
from playwright.sync_api import sync_playwright
from study_page import FLAGS, METRICS, inside, large_file, load_ms, served

from haremile.bootstrap import Bench
from haremile.core.records.library import Noun, Source
from haremile.core.records.study import Install, Machine, System
from haremile.usecases.import_readings import import_study
from haremile.usecases.plan import checked_plan

STUDIES, SYSTEMS, ROUNDS, KEYSTROKES = 500, 300, 6, 60
REPEATS = (5, 8, 12, 20, 30)


def filled(bench: Bench) -> tuple[str, list[str]]:
    """Fill the bench book; return an empty study, and the installs of the large one."""
    for number in range(STUDIES):
        rows = "".join(
            f"Varrow {number % SYSTEMS},Bench,boot.total,{10 + n / 10},s\n"
            f"Quillfern {number % 7},Bench,boot.total,{12 + n / 10},s\n"
            for n in range(6)
        )
        body = f"system,machine,metric,value,unit\n{rows}".encode()
        import_study(bench.studies, bench.readings, f"Which, {number}?", body)
    large = import_study(bench.studies, bench.readings, "Large", large_file())
    for system in bench.things.all(Noun.SYSTEM):
        for fact in ("channel", "desktop", "kernel"):
            bench.things.state(Noun.SYSTEM, system.id, fact, "as noted", Source("a page"))
    pair = [Install(System(name), Machine("Bench")) for name in ("A", "B")]
    empty = bench.studies.create(checked_plan("Empty", pair, 1, 1))
    return str(empty.id), [str(one.install.id) for one in large.contenders]


def keystrokes(client: httpx.Client, installs: list[str]) -> tuple[list[float], list[float], int]:
    """Milliseconds of answers to a plan that changes with each keystroke: those with repeats that
    were asked for the first time, and all others; and how many lines they tell."""
    first, again, asked, lines = [], [], set(), 0
    for stroke in range(KEYSTROKES):
        blocks = REPEATS[stroke % len(REPEATS)]
        plan = {
            "installs": installs,
            "blocks": blocks,
            "procedures": ["boot", "launch:Coppicer"],
            "margins": {key: {"share": 0.03 + stroke / 1e4} for key in METRICS},
        }
        begun = time.perf_counter()
        answer = client.post("/api/studies/outlook", json=plan)
        took = 1000 * (time.perf_counter() - begun)
        answer.raise_for_status()
        lines = len(answer.json()["lines"])
        (again if blocks in asked else first).append(took)
        asked.add(blocks)
    return first, again, lines


def main() -> None:
    times: dict[str, list[float]] = defaultdict(list)
    with throwaway_bench() as bench, sync_playwright() as playwright:
        empty, installs = filled(bench)
        with (
            serving(bench) as (address, key),
            httpx.Client(
                base_url=address, headers={"Authorization": f"Bearer {key}"}, timeout=60
            ) as client,
        ):
            begun = time.perf_counter()
            while not all(
                one["is_current"] for one in client.get("/api/studies").json() if one["finished"]
            ):
                time.sleep(0.2)
            print(f"{STUDIES} answers calculated in {time.perf_counter() - begun:.1f} s")
            first, again, lines = keystrokes(client, installs)
            print(f"plan of {len(installs)} installs, {lines} lines")
            print(f"  after a keystroke         {spread(again, 'ms', 0)}")
            print(f"  with new repeats          {spread(first, 'ms', 0)}")
        flags = [*FLAGS, *(["--no-sandbox"] if os.geteuid() == 0 else [])]
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)
        with served(bench.url) as entry:
            base, kept = inside(browser, entry)
            for _ in range(ROUNDS):
                root = base.removesuffix("studies")
                for name, page, seen in (
                    ("empty page", f"studies/{empty}/findings", "h2"),
                    (f"list of {STUDIES} studies", "studies", "a.study"),
                    (f"library of {SYSTEMS} systems", "library", "a[href^='/library/systems/']"),
                ):
                    times[name].append(load_ms(browser, kept, root + page, seen))
        browser.close()
    for name, values in times.items():
        ratio = statistics.median(values) / statistics.median(times["empty page"])
        print(f"{name:31} {spread(values, 'ms', 0)}  {ratio:.2f} times the empty page")


if __name__ == "__main__":
    main()
