"""A large study's page against the empty page of the same build.

Eight contenders on three machines, twelve measures, thirty repeats: how long until the verdicts
stand, how long a change of measure and of baseline takes, and 20,000 readings in one picture.
"""

import os
import shutil
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from common import signed_in, spread, throwaway_bench
from playwright.sync_api import sync_playwright

from haremile.core.records.metrics import metric
from haremile.core.records.study import Install, Machine, System
from haremile.usecases.import_readings import import_study
from haremile.usecases.plan import checked_plan

WEB = Path(__file__).resolve().parents[1] / "web"
PLAIN = Path(__file__).with_name("plain_page")
ROUNDS = 8
COLD_ROUNDS = 5
PAUSE_S = 1.0
BARS = "svg[aria-label^=Readings] path[d^=M]"
DIFFERENCES, ABOUT = "svg[aria-label^=Differences]", "section h2 + span"
CHANGES = 24
FLAGS = ["--disable-gpu", "--disable-quic", "--disable-background-networking"]
CONTENDERS, MACHINES, REPEATS, MANY = 8, 3, 30, 20_000
METRICS = (
    "boot.total",
    "boot.firmware",
    "boot.kernel",
    "boot.userspace",
    "memory.used",
    "memory.used_nocache",
    "memory.pss",
    "memory.swap_used",
    "process.count",
    "disk.used",
    "launch.window",
    "launch.settled",
)
HEAD = "system,machine,metric,value,unit,run,block\n"

WATCH = """
    window.seenAt = new Promise((done) => {
        const look = () => {
            if (document.querySelector(%r)) requestAnimationFrame(() => done(performance.now()))
            else requestAnimationFrame(look)
        }
        look()
    })
"""
CHANGED = """([key, wanted]) => new Promise((done, fail) => {
    const before = performance.now()
    const seen = () => document.querySelector(wanted)?.textContent ?? ''
    const was = seen()
    const look = () => {
        if (seen() !== was) requestAnimationFrame(() => done(performance.now() - before))
        else if (performance.now() - before > 5000) fail(new Error('nothing changed'))
        else requestAnimationFrame(look)
    }
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
    look()
})"""


def large_file() -> bytes:
    """Readings of eight systems on three machines."""
    generator = np.random.default_rng(6)
    lines = []
    for machine in range(MACHINES):
        for system in range(CONTENDERS):
            for key in METRICS:
                unit = metric(key).unit
                typical = (1e8 if unit == "B" else 10.0) * (1 + 0.1 * system + 0.3 * machine)
                for block, noise in enumerate(generator.normal(0.0, 0.02, REPEATS), start=1):
                    procedure = "launch" if key.startswith("launch") else "boot"
                    lines.append(
                        f"System {system + 1},Machine {machine + 1},{key},"
                        f"{typical * (1 + noise)},{unit},{procedure} {block},{block}"
                    )
    return (HEAD + "\n".join(lines) + "\n").encode()


def crowded_file() -> bytes:
    """20,000 readings of one measure in four lanes."""
    values = np.random.default_rng(7).normal(10.0, 0.5, (4, MANY // 4))
    lines = [
        f"System {lane + 1},Bench,boot.total,{value + 2 * lane},s,{block},{block}"
        for lane, row in enumerate(values)
        for block, value in enumerate(row, start=1)
    ]
    return (HEAD + "\n".join(lines) + "\n").encode()


@contextmanager
def served(url: str) -> Iterator[str]:
    """A server of its own process, which has calculated nothing yet; gives the address that signs a
    browser in."""
    command = [sys.executable, "-m", "haremile", "serve", "--port", str(free_port())]
    told = {**os.environ, "DATABASE_URL": url}
    server = subprocess.Popen(
        command, env=told, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
    )
    try:
        assert server.stdout is not None
        yield server.stdout.readline().strip()
    finally:
        server.terminate()
        server.wait(20)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def load_ms(browser, kept, address: str, wait_for: str) -> float:
    """From navigation to the awaited element painted, as the page itself sees it."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, storage_state=kept)
    page.add_init_script(WATCH % wait_for)
    page.goto(address, wait_until="commit")
    taken = page.evaluate("window.seenAt")
    page.close()
    time.sleep(PAUSE_S)  # what the closed page had asked for is answered
    return taken


def change_ms(browser, kept, address: str, key: str, seen: str) -> list[float]:
    """From a key press to the changed text painted."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, storage_state=kept)
    page.goto(address)
    page.wait_for_selector("svg[aria-label^=Readings] line", state="attached")
    page.wait_for_timeout(500)
    taken = [page.evaluate(CHANGED, [key, seen]) for _ in range(CHANGES)]
    page.close()
    return taken


@contextmanager
def plain_page() -> Iterator[str]:
    """A page of React and MUI with one button, built as ours is and served by a bare server."""
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder, "source")  # beside the modules that it imports, as the pages are
        shutil.copytree(PLAIN, source)
        (source / "node_modules").symlink_to(WEB / "node_modules")
        built = Path(folder, "built")
        build = [WEB / "node_modules/.bin/vite", "build", "--outDir", built, "--logLevel", "error"]
        subprocess.run([*build, source], check=True)
        port = str(free_port())
        command = [sys.executable, "-m", "http.server", port, "--bind", "127.0.0.1"]
        server = subprocess.Popen(
            command, cwd=built, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        try:
            wait_for_port(int(port))
            yield f"http://127.0.0.1:{port}/"
        finally:
            server.terminate()
            server.wait(20)


def wait_for_port(port: int) -> None:
    while True:
        try:
            socket.create_connection(("127.0.0.1", port), 1).close()
            return
        except ConnectionRefusedError:
            time.sleep(0.05)


def inside(browser, entry: str):
    """The list of studies, and what a browser that is signed in keeps."""
    return entry.partition("enter?")[0] + "studies", signed_in(browser, entry)


def main() -> None:
    times: dict[str, list[float]] = defaultdict(list)
    with throwaway_bench() as bench, plain_page() as plain, sync_playwright() as playwright:
        studies = {
            "large": import_study(bench.studies, bench.readings, "Large", large_file()),
            "crowded": import_study(bench.studies, bench.readings, "Crowded", crowded_file()),
        }
        installs = [Install(System(name), Machine("Bench")) for name in ("A", "B")]
        studies["empty"] = bench.studies.create(checked_plan("Empty", installs, 1, 1))
        flags = [*FLAGS, *(["--no-sandbox"] if os.geteuid() == 0 else [])]
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)

        def load(name: str, base: str, study: str, wait_for: str) -> None:
            address = f"{base}/{studies[study].id}/findings"
            times[name].append(load_ms(browser, kept, address, wait_for))

        for _ in range(COLD_ROUNDS):
            with served(bench.url) as entry:
                base, kept = inside(browser, entry)
                load("empty", base, "empty", "h2")
                load("verdicts, nothing calculated yet", base, "large", ".verdict .says")
                load("20,000, nothing calculated yet", base, "crowded", BARS)
        with served(bench.url) as entry:
            base, kept = inside(browser, entry)
            for _ in range(ROUNDS):
                times["one button"].append(load_ms(browser, kept, plain, "button"))
                load("empty", base, "empty", "h2")
                load("verdicts, calculated before", base, "large", ".verdict .says")
                load("with its picture", base, "large", "svg[aria-label^=Readings]")
                load("20,000, calculated before", base, "crowded", BARS)
            address = f"{base}/{studies['large'].id}/findings"
            times["change of measure"] = change_ms(browser, kept, address, "ArrowDown", ABOUT)
            times["change of baseline"] = change_ms(browser, kept, address, "b", DIFFERENCES)
            times["20,000 drawn anew"] = change_ms(
                browser,
                kept,
                f"{base}/{studies['crowded'].id}/findings",
                "l",
                "svg[aria-label^=Readings]",
            )
        browser.close()
    for name, values in times.items():
        ratio = statistics.median(values) / statistics.median(times["empty"])
        print(f"{name:31} {spread(values, 'ms', 0)}  {ratio:.2f} times the empty page")


if __name__ == "__main__":
    main()
