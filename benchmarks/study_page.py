"""A study page with 2,000 readings in its picture against the empty page of the same build."""

import os
import statistics
import threading

import uvicorn
from common import spread, throwaway_bench
from playwright.sync_api import sync_playwright

from haremile.api.application import create_app
from haremile.bench.plan import checked_plan
from haremile.bench.take_in import import_study
from haremile.core.study import Install, Machine, System

ROUNDS = 12
FLAGS = ["--disable-gpu", "--disable-quic", "--disable-background-networking"]
SYSTEMS = ("Varrow 12", "Quillfern 8", "Marlstone 26.1", "Osterfell Base")


def readings_file() -> bytes:
    rows = [
        f"{system},Bench,boot.total,{10 + 3 * i + (block * 37 % 101) / 100},s,{block}"
        for block in range(1, 501)
        for i, system in enumerate(SYSTEMS)
    ]
    return ("system,machine,metric,value,unit,block\n" + "\n".join(rows) + "\n").encode()


def load_ms(browser, address: str, wait_for: str) -> float:
    """From navigation to the awaited element painted."""
    page = browser.new_page()
    page.goto(address, wait_until="commit")
    page.wait_for_selector(wait_for, state="attached")
    taken = page.evaluate(
        "() => new Promise(r => requestAnimationFrame(() => r(performance.now())))"
    )
    page.close()
    return taken


def main() -> None:
    with throwaway_bench() as bench:
        full = import_study(bench.studies, bench.readings, "Full", readings_file())
        machine = Machine("Bench")
        installs = [Install(System(name), machine) for name in SYSTEMS]
        empty = bench.studies.create(checked_plan("Empty", installs, 1, 1))
        app = create_app(bench, bench.url, bench.settings.web)
        server = uvicorn.Server(uvicorn.Config(app, port=0, log_level="error"))
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        while not server.started:
            pass
        base = f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}/studies"
        flags = [*FLAGS, *(["--no-sandbox"] if os.geteuid() == 0 else [])]
        times: dict[str, list[float]] = {"empty": [], "full": [], "full run": []}
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)
            for _ in range(ROUNDS):
                times["empty"].append(load_ms(browser, f"{base}/{empty.id}/findings", "h2"))
                ticks = "svg[aria-label^=Readings] line:nth-of-type(400)"
                times["full"].append(load_ms(browser, f"{base}/{full.id}/findings", ticks))
                mark = "[data-testid=run-reading]"
                times["full run"].append(load_ms(browser, f"{base}/{full.id}/run", mark))
            browser.close()
        server.should_exit = True
        thread.join(10)
        for name, values in times.items():
            ratio = statistics.median(values) / statistics.median(times["empty"])
            print(f"{name:9} {spread(values, 'ms', 0)}  {ratio:.2f} times the empty page")


if __name__ == "__main__":
    main()
