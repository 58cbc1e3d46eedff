"""From a run that is finished to its mark in the page."""

import statistics
import threading

import uvicorn
from common import signed_in, spread, throwaway_bench
from playwright.sync_api import sync_playwright

from haremile.api.application import create_app
from haremile.core.records.study import Install, Machine, System
from haremile.core.simulation.machine import LaneTruth, MetricTruth
from haremile.rigs.simulated import SimulatedRig
from haremile.usecases.access import OWNER, Role
from haremile.usecases.conduct import Conductor
from haremile.usecases.ports import StudyPlan

RUNS = 40
WATCH = """() => {
  window.seen = []
  const look = () => {
    const count = document.querySelectorAll('[data-testid="run-reading"]').length
    while (window.seen.length < count) window.seen.push(Date.now())
  }
  new MutationObserver(look).observe(document.body, {childList: true, subtree: true})
  look()
}"""


def main() -> None:
    with throwaway_bench() as bench:
        truth = LaneTruth(
            {"boot.total": MetricTruth(1.2, 0.1), "boot.kernel": MetricTruth(1.2, 0.2)}
        )
        installs = [
            Install(
                System(name), Machine("Bench", "simulated"), rig="simulated", recipe={"truth": "A"}
            )
            for name in ("A", "B")
        ]
        study = bench.studies.create(StudyPlan("benchmark", installs, RUNS // 2, 1))
        rigs = {"simulated": SimulatedRig({"A": truth}, 1.0)}
        conductor = Conductor(bench.studies, bench.queue, bench.events, rigs)
        config = uvicorn.Config(
            create_app(bench, bench.url, bench.settings.web), port=0, log_level="warning"
        )
        server = uvicorn.Server(config)
        threading.Thread(target=server.run, daemon=True).start()
        while not server.started:
            pass
        port = server.servers[0].sockets[0].getsockname()[1]
        with sync_playwright() as playwright:
            flags = ["--no-sandbox", "--disable-gpu"]
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)
            base = f"http://127.0.0.1:{port}"
            bench.access.ensure_person(OWNER, Role.OWN)
            kept = signed_in(browser, f"{base}/enter?token={bench.access.new_entry(OWNER)}")
            page = browser.new_page(viewport={"width": 1280, "height": 800}, storage_state=kept)
            page.goto(f"{base}/studies/{study.id}/run")
            page.get_by_text("0 of 20 runs").first.wait_for()
            page.evaluate(WATCH)
            conductor.conduct(study.id)
            page.wait_for_function(f"window.seen.length >= {RUNS}")
            seen = page.evaluate("window.seen")
            browser.close()
        server.should_exit = True
        done = [e.at for e in bench.events.after(0, study.id, 10_000) if e.kind == "run.done"]
        late = [at / 1000.0 - when.timestamp() for at, when in zip(seen, done, strict=True)]
        print(
            f"run finished to seen: {spread(late)}; 90 % within "
            f"{statistics.quantiles(late, n=10)[-1]:.3f} s"
        )


if __name__ == "__main__":
    main()
