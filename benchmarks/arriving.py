"""What arrives, and what others notice of it.

Findings are asked for at a fixed rate, whether answers come or not, alone and while the largest
file that is taken, and a file of a million rows, are brought again and again; the 95 % of both are
told as a ratio, in one run. Then each attack by itself: how long until it is answered, and how
much memory server and reader took.
"""

import multiprocessing
import os
import socket
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection
from pathlib import Path

import httpx
from common import throwaway_bench

from haremile.formats.readings_csv import MOST_ROWS
from haremile.usecases.access import OWNER, Role
from haremile.usecases.import_readings import import_study

RATE_S = 8.0
WARM_S, SPAN_S = 5.0, 40.0
HEAD = "system,machine,metric,value,unit,run,block\n"
MIB = 2**20


def rows(count: int) -> bytes:
    """A file of so many good rows, of eight systems."""
    return (
        HEAD
        + "".join(
            f"System {n % 8 + 1},Bench,boot.total,{10 + n % 997 / 100},s,{n},{n // 8 + 1}\n"
            for n in range(count)
        )
    ).encode()


@contextmanager
def server(url: str) -> Iterator[tuple[str, int]]:
    """A server of its own process; its address and process id."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    started = subprocess.Popen(
        [sys.executable, "-m", "haremile", "serve", "--port", str(port)],
        env={**os.environ, "DATABASE_URL": url},
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    try:
        assert started.stdout is not None
        started.stdout.readline()
        yield f"http://127.0.0.1:{port}", started.pid
    finally:
        started.terminate()
        started.wait(20)


def resident_mib(pid: int) -> float:
    for line in Path(f"/proc/{pid}/status").read_text().splitlines():
        if line.startswith("VmRSS"):
            return int(line.split()[1]) / 1024
    return 0.0


def below(pid: int) -> list[int]:
    """All processes below one."""
    found = []
    for child in Path(f"/proc/{pid}/task").glob("*/children"):
        for one in child.read_text().split():
            found += [int(one), *below(int(one))]
    return found


class Watch:
    """The most memory that the server, and the largest process below it, took meanwhile."""

    def __init__(self, pid: int):
        self._pid, self._over = pid, threading.Event()
        self.server, self.reader = 0.0, 0.0
        self._thread = threading.Thread(target=self._look, daemon=True)

    def __enter__(self) -> "Watch":
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._thread.join()

    def _look(self) -> None:
        while not self._over.wait(0.02):
            try:
                self.server = max(self.server, resident_mib(self._pid))
                for child in below(self._pid):
                    name = Path(f"/proc/{child}/cmdline").read_bytes()
                    if b"forkserver" in name or b"spawn" in name:
                        self.reader = max(self.reader, resident_mib(child))
            except OSError:
                continue  # one of them ended meanwhile


def asked_at_a_rate(client: httpx.Client, path: str, over: Callable[[], bool]) -> list[float]:
    """Times of requests begun at a fixed rate, from when each was due."""
    took: list[float] = []
    threads = []

    def one(due: float) -> None:
        assert client.get(path).status_code == 200
        took.append(time.monotonic() - due)

    due = time.monotonic()
    while not over():
        threads.append(threading.Thread(target=one, args=(due,)))
        threads[-1].start()
        due += 1.0 / RATE_S
        time.sleep(max(due - time.monotonic(), 0.0))
    for thread in threads:
        thread.join()
    return took


def p95(values: list[float]) -> float:
    return statistics.quantiles(values, n=20)[-1]


def lasting(seconds: float) -> Callable[[], bool]:
    end = time.monotonic() + seconds
    return lambda: time.monotonic() > end


def brought(client: httpx.Client, body: bytes, title: str = "Large") -> httpx.Response:
    return client.post(
        "/api/studies/import", data={"title": title}, files={"files": ("r.csv", body)}, timeout=600
    )


def bring_on(address: str, key: str, count: int, wanted: int, told: Connection) -> None:
    """Bring a file again and again, from a process of its own; tell how long each took."""
    took, is_over, body = [], lasting(SPAN_S), rows(count)
    with httpx.Client(base_url=address, headers={"Authorization": f"Bearer {key}"}) as client:
        told.send("ready")
        while not is_over():
            begun = time.monotonic()
            answer = brought(client, body)
            assert answer.status_code == wanted, answer.text
            took.append(time.monotonic() - begun)
    told.send(took)


def pace(client: httpx.Client, pid: int, path: str, address: str, key: str) -> None:
    """Findings alone, and beside each of the two files."""
    asked_at_a_rate(client, path, lasting(WARM_S))
    alone = asked_at_a_rate(client, path, lasting(SPAN_S))
    print(f"findings, {RATE_S:g} a second, alone: 95 % within {1000 * p95(alone):.0f} ms")
    for name, count, wanted in (
        (f"{MOST_ROWS:,} rows, taken in", MOST_ROWS, 201),
        ("1,000,000 rows, refused", 10**6, 422),
    ):
        here, there = multiprocessing.Pipe()
        bringing = multiprocessing.Process(
            target=bring_on, args=(address, key, count, wanted, there)
        )
        bringing.start()
        here.recv()
        with Watch(pid) as watch:
            beside = asked_at_a_rate(client, path, here.poll)
        took = here.recv()
        bringing.join()
        print(
            f"beside {name} ({len(took)} times, {statistics.median(took):.1f} s each): 95 % within "
            f"{1000 * p95(beside):.0f} ms, {p95(beside) / p95(alone):.2f} times; "
            f"server {watch.server:.0f} MiB, reader {watch.reader:.0f} MiB at most"
        )


def attacks(client: httpx.Client, pid: int, address: str) -> None:
    """Each attack by itself."""
    columns = ",".join(f"column{n}" for n in range(20_000)).encode()
    nested = b"[" * (64 * MIB)

    def timed(name: str, attack: Callable[[], object]) -> None:
        with Watch(pid) as watch:
            begun = time.monotonic()
            answered = attack()
            took_s = time.monotonic() - begun
        print(
            f"{name}: {answered}, {took_s:.2f} s, server {watch.server:.0f} MiB, "
            f"reader {watch.reader:.0f} MiB at most"
        )

    timed("30 MiB of commas", lambda: brought(client, b"," * (30 * MIB)).status_code)
    timed("20,000 column names", lambda: brought(client, columns).status_code)
    timed("10⁶ good rows", lambda: brought(client, rows(10**6)).status_code)

    def without_key() -> object:
        try:
            return httpx.post(f"{address}/api/studies", content=nested).status_code
        except httpx.TransportError as error:
            return f"closed while it was sent ({type(error).__name__})"

    timed("64 MiB of nested JSON without a key", without_key)

    def half_sent() -> object:
        host, port = address.rpartition("/")[2].split(":")
        links = []
        for _ in range(1100):
            link = socket.create_connection((host, int(port)))
            link.sendall(b"GET / HTTP/1.1\r\nHost: ")
            links.append(link)
        begun = time.monotonic()
        status = client.get("/healthz").status_code
        answered_s = time.monotonic() - begun
        for link in links:
            link.settimeout(60)
            try:
                link.recv(1)
            except OSError:
                continue  # it was reset, which is what is waited for
        held_s = time.monotonic() - begun
        return f"others {status} after {answered_s:.2f} s, all closed after {held_s:.1f} s"

    timed("1,100 half-sent heads", half_sent)


def main() -> None:
    with throwaway_bench() as bench:
        study = import_study(bench.studies, bench.readings, "Asked for", rows(8_000))
        bench.access.ensure_person(OWNER, Role.OWN)
        key = bench.access.add_person(OWNER, Role.OWN)
        with server(bench.url) as (address, pid):
            headers = {"Authorization": f"Bearer {key}"}
            limits = httpx.Limits(max_connections=100)
            with httpx.Client(
                base_url=address, headers=headers, timeout=120, limits=limits
            ) as client:
                attacks(client, pid, address)
                pace(client, pid, f"/api/studies/{study.id}/findings", address, key)


if __name__ == "__main__":
    main()
