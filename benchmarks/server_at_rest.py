"""Memory of the server process at rest, and the size of a page's first script."""

import gzip
import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import httpx

ROOT = Path(__file__).resolve().parents[1]


def resident_mib(pid: int) -> tuple[float, float]:
    rollup = Path(f"/proc/{pid}/smaps_rollup").read_text()
    rss, pss = (int(re.search(rf"^{name}:\s+(\d+)", rollup, re.M)[1]) for name in ("Rss", "Pss"))
    return rss / 1024, pss / 1024


def main() -> None:
    server = subprocess.Popen(
        [sys.executable, "-m", "haremile", "demo"], stdout=subprocess.PIPE, text=True, cwd=ROOT
    )
    try:
        entry = server.stdout.readline().strip()
        address = entry.partition("enter?")[0]
        client = httpx.Client(base_url=address)
        client.headers["Haremile-Page"] = client.get(entry).headers["location"].partition("=")[2]
        page = client.get("/").text
        print("just started, RSS and PSS: {:.0f} and {:.0f} MiB".format(*resident_mib(server.pid)))
        study = client.get("/api/studies").text
        for key in re.findall(r'"id":"([0-9a-f-]{36})"', study):
            client.get(f"/api/studies/{key}/findings")
        time.sleep(5)
        print("at rest after findings: {:.0f} and {:.0f} MiB".format(*resident_mib(server.pid)))
        mapped = Path(f"/proc/{server.pid}/maps").read_text()
        print("SciPy loaded:", "scipy" in mapped)
        scripts = re.findall(r'(?:src|href)="(/assets/[^"]+\.js)"', page)
        size = sum(len(gzip.compress(client.get(s).content, 9)) for s in scripts)
        print(f"initial script, gzip: {size / 1000:.0f} kB in {len(scripts)} file(s)")
    finally:
        os.kill(server.pid, signal.SIGTERM)
        server.wait()


if __name__ == "__main__":
    main()
