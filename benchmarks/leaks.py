"""Five thousand mixed requests and two hundred event streams against one server: memory, open
files and connections of the database before and after."""

import asyncio
import os
import subprocess
import sys
import time
from pathlib import Path

import httpx
import psycopg
from common import throwaway_bench
from study_page import free_port

from haremile.bootstrap import Bench
from haremile.demo.load import load_sample_world
from haremile.usecases.access import Role

REQUESTS, STREAMS, AT_ONCE = 5_000, 200, 8
PATHS = (
    "studies",
    "today",
    "systems",
    "machines",
    "standings",
    "totals",
    "incidents",
    "scorecards",
    "metrics",
    "session",
    "studies/{study}",
    "studies/{study}/runs",
    "studies/{study}/findings",
    "studies/{study}/report",
    "studies/{study}/reading-columns?metric=boot.total",
    "studies/00000000-0000-0000-0000-000000000000",
    "no-such-thing",
)


def held(server: int) -> tuple[float, int, int]:
    """MiB of memory, open files, threads."""
    status = Path(f"/proc/{server}/status").read_text()
    lines = dict(line.split(":", 1) for line in status.splitlines() if ":" in line)
    files = len(list(Path(f"/proc/{server}/fd").iterdir()))
    return int(lines["VmRSS"].split()[0]) / 1024, files, int(lines["Threads"])


def connections(bench: Bench) -> int:
    with psycopg.connect(bench.url) as link:
        row = link.execute("select count(*) from pg_stat_activity").fetchone()
        return int(row[0]) if row else 0


async def asked(client: httpx.AsyncClient, study: str, number: int) -> None:
    turn = asyncio.Semaphore(AT_ONCE)

    async def one(i: int) -> None:
        async with turn:
            await client.get("/api/" + PATHS[i % len(PATHS)].format(study=study))

    await asyncio.gather(*(one(i) for i in range(number)))


async def streamed(client: httpx.AsyncClient, number: int) -> None:
    """Streams are opened, heard for a moment, and left."""

    async def one() -> None:
        async with client.stream("GET", "/api/events?after=0") as answer:
            async for _ in answer.aiter_lines():
                return

    for _ in range(0, number, 50):
        await asyncio.gather(*(one() for _ in range(50)))


async def load(address: str, key: str, study: str, server: int, bench: Bench) -> None:
    headers = {"Authorization": f"Bearer {key}"}
    limits = httpx.Limits(max_connections=100)
    async with httpx.AsyncClient(
        base_url=address, headers=headers, timeout=120, limits=limits
    ) as client:
        await asked(client, study, 20 * len(PATHS))  # everything was calculated once
        await streamed(client, 50)
        print("after a first round", told(server, bench))
        for share in range(1, 6):
            await asked(client, study, REQUESTS // 5)
            await streamed(client, STREAMS // 4 if share < 5 else 0)
            print(f"after {share * REQUESTS // 5} requests", told(server, bench))
    time.sleep(3.0)
    print("at rest again", told(server, bench))


def told(server: int, bench: Bench) -> str:
    memory, files, threads = held(server)
    return (
        f"{memory:.0f} MiB, {files} open files, {threads} threads, "
        f"{connections(bench)} connections of the database"
    )


def main() -> None:
    with throwaway_bench() as bench:
        load_sample_world(bench, bench.intake_here(), lambda text: None)
        study = str(bench.studies.digests()[0].id)
        key = bench.access.add_person("Ida", Role.OWN)
        command = [sys.executable, "-m", "haremile", "serve", "--port", str(free_port())]
        server = subprocess.Popen(
            command,
            env={**os.environ, "DATABASE_URL": bench.url},
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        try:
            assert server.stdout is not None
            address = server.stdout.readline().strip().partition("/enter")[0]
            asyncio.run(load(address, key, study, server.pid, bench))
        finally:
            server.terminate()
            server.wait(30)


if __name__ == "__main__":
    main()
