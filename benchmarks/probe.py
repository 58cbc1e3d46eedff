"""What the probe itself costs against a bare interpreter in the same run, and how far off it is."""

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from haremile.formats.probe_archive import NAME, read_probe_archive

PYTHON = "/usr/bin/python3"
STARTS = 20
WATCH_S = 40.0


def children_cpu_s() -> float:
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    return used.ru_utime + used.ru_stime


def run(*words: str) -> float:
    """Run to the end; return processor seconds."""
    before = children_cpu_s()
    subprocess.run(words, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return children_cpu_s() - before


def start(archive: str) -> None:
    bare, probe = [], []
    for _ in range(STARTS):  # interleaved, so that the neighbours disturb both alike
        for taken, words in (
            (bare, (PYTHON, "-I", "-c", "pass")),
            (probe, (PYTHON, "-I", archive, "--version")),
        ):
            begun = time.perf_counter()
            run(*words)
            taken.append(time.perf_counter() - begun)
    ratio = statistics.median(p / b for p, b in zip(probe, bare, strict=True))
    print(
        f"start: {statistics.median(probe) * 1e3:.0f} ms, a bare interpreter "
        f"{statistics.median(bare) * 1e3:.0f} ms: {ratio:.1f} times (n = {STARTS} pairs)"
    )


def idle(archive: str, folder: str) -> None:
    words = (PYTHON, "-I", archive, "idle", "--instants", "none", "--quiet", "--out")
    spent = run(*words, f"{folder}/idle.json", "--limit", "120")
    bare = run(PYTHON, "-I", "-c", "pass")
    print(
        f"an idle capture: {spent * 1e3:.0f} ms of processor time ({spent / bare:.0f} bare starts)"
    )
    child = subprocess.Popen(
        [*words, f"{folder}/again.json", "--window", "600", "--limit", str(WATCH_S + 10)],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    time.sleep(5)
    first = cpu_s(child.pid)
    time.sleep(WATCH_S)
    share = (cpu_s(child.pid) - first) / WATCH_S
    status = Path(f"/proc/{child.pid}/status").read_text()
    resident = int(status.partition("VmRSS:")[2].split()[0]) / 1024
    print(f"while waiting: {resident:.1f} MiB resident, {share:.2%} of a core over {WATCH_S:g} s")
    child.wait()


def cpu_s(pid: int) -> float:
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def check(archive: str, folder: str, display: str, manager: str | None) -> None:
    environment = {**os.environ, "DISPLAY": display, "XDG_STATE_HOME": folder}
    with_manager = subprocess.Popen([manager], env=environment) if manager else None
    try:
        out = f"{folder}/check.json"
        subprocess.run(
            [PYTHON, "-I", archive, "check", "--repeats", "20", "--quiet", "--out", out],
            env=environment,
            check=True,
            stdout=subprocess.DEVNULL,
        )
    finally:
        if with_manager is not None:
            with_manager.terminate()
            with_manager.wait()
    evidence = json.loads(Path(out).read_text())["evidence"]
    found = json.loads(next(e["text"] for e in evidence if e["name"] == "check"))
    launch = found["launch"]
    print(f"check {'with ' + manager if manager else 'without a window manager'}, n = 20:")
    for name in ("window", "settled"):
        one = launch[name]
        print(f"  {name}: bias {one['bias_s'] * 1e3:+.2f} ms, scatter {one['sd_s'] * 1e3:.2f} ms")
    known, read = found["allocation"]["known_bytes"], found["allocation"]["read_bytes"]
    print(
        f"  lost {launch['lost']}; 100 MiB read as {100 * read / known:.3f} MiB; tree off by "
        f"{found['tree']['read_bytes'] - found['tree']['known_bytes']} bytes"
    )


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="haremile-bench-") as folder:
        archive = f"{folder}/{NAME}"
        Path(archive).write_bytes(read_probe_archive())
        print(f"{NAME}: {len(read_probe_archive()) / 1000:.0f} kB")
        start(archive)
        idle(archive, folder)
        server = subprocess.Popen(
            ["Xvfb", "-displayfd", "1", "-screen", "0", "1280x800x24", "-noreset"],
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        try:
            assert server.stdout is not None
            display = f":{server.stdout.readline().strip()}"
            check(archive, folder, display, None)
            check(archive, folder, display, "openbox")
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    sys.exit(main())
