"""Large studies: bringing readings in against their COPY alone, kept findings by the number of
readings, and fifty clients that ask for findings at once.
"""

import statistics
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from uuid import UUID

import httpx
import psycopg
import uvicorn
from common import spread, throwaway_bench

from haremile.api.application import create_app
from haremile.api.connections import server_settings
from haremile.bootstrap import Bench
from haremile.usecases.access import OWNER, Role
from haremile.usecases.compare import kept_findings
from haremile.usecases.import_readings import import_study

SIZES = (1_000, 10_000, 100_000)
ROUNDS = 3
CLIENTS, ASKS = 50, 8
SYSTEMS = ("Varrow 12", "Quillfern 8", "Marlstone 26.1", "Osterfell")
METRICS = {
    "boot.total": "s",
    "boot.kernel": "s",
    "boot.userspace": "s",
    "memory.used": "MiB",
    "process.count": "1",
}
HEAD = "system,machine,metric,value,unit,run,block,condition.medium,condition.kernel\n"
TABLES = {
    "run": "id, study_id, contender_id, block, position, procedure, condition_hash,"
    " conditions::text, repeat, state, reason, attempt_no",
    "attempt": "id, run_id, number, state, started_at, finished_at, reason, conditions::text,"
    " capture_id",
    "reading": "id, attempt_id, lane_id, metric, method, step, value, unit, resolution, set_aside",
}


def readings_file(rows: int) -> bytes:
    """So many readings of four contenders, five of each run."""
    lines: list[str] = []
    block = 0
    while len(lines) < rows:
        block += 1
        for place, system in enumerate(SYSTEMS):
            for step, (metric, unit) in enumerate(METRICS.items()):
                value = 10 + place + step + (block * 37 + place * 11) % 100 / 50
                lines.append(
                    f"{system},Bench,{metric},{value},{unit},{block},{block},installed,6.12\n"
                )
    return (HEAD + "".join(lines[:rows])).encode()


def copy_alone(bench: Bench) -> float:
    """Seconds that COPY takes for the same rows into the same tables, keys and all."""
    took_s = 0.0
    with psycopg.connect(bench.url) as link, link.cursor() as cursor:
        rows = {}
        for table, columns in TABLES.items():
            cursor.execute(f"select {columns} from {table}")
            rows[table] = cursor.fetchall()
        cursor.execute("truncate run, attempt, reading cascade")
        for table, columns in TABLES.items():
            begun = time.perf_counter()
            names = columns.replace("::text", "")
            with cursor.copy(f"copy {table} ({names}) from stdin") as copy:
                for row in rows[table]:
                    copy.write_row(row)
            took_s += time.perf_counter() - begun
        link.rollback()
    return took_s


def bring_in(bench: Bench) -> dict[int, UUID]:
    """A study of each size; prints the seconds against COPY alone in the same round."""
    kept = {}
    for size in SIZES:
        body = readings_file(size)
        ours, copies = [], []
        for round_no in range(ROUNDS):
            with psycopg.connect(bench.url, autocommit=True) as link:
                link.execute("truncate study, capture cascade")
            begun = time.perf_counter()
            import_study(bench.studies, bench.readings, f"{size}, {round_no}", body)
            ours.append(time.perf_counter() - begun)
            copies.append(copy_alone(bench))
        ratio = statistics.median(ours) / statistics.median(copies)
        print(f"{size:,} rows: {spread(ours)}; COPY alone {spread(copies)}; {ratio:.1f} times")
    for size in SIZES:
        study = import_study(bench.studies, bench.readings, f"{size}", readings_file(size))
        kept[size] = study.id
    return kept


def ask_kept(bench: Bench, studies: dict[int, UUID]) -> None:
    """How long findings take that are calculated already."""
    for size, study in studies.items():
        begun = time.perf_counter()
        kept_findings(bench.studies, bench.readings, study)
        first_s = time.perf_counter() - begun
        times = []
        for _ in range(30):
            begun = time.perf_counter()
            kept_findings(bench.studies, bench.readings, study)
            times.append((time.perf_counter() - begun) * 1000)
        print(f"{size:,} readings: calculated in {first_s:.2f} s; kept {spread(times, 'ms', 1)}")


@contextmanager
def serving(bench: Bench):
    """A server of this bench in a thread of its own; gives its address and a key."""
    key = bench.access.add_person(OWNER, Role.OWN)
    app = create_app(bench, bench.url, None)
    server = uvicorn.Server(uvicorn.Config(app, port=0, **server_settings()))
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started:
        time.sleep(0.05)
    port = server.servers[0].sockets[0].getsockname()[1]
    yield f"http://127.0.0.1:{port}", key
    server.should_exit = True
    thread.join()


def ask_together(bench: Bench, study: UUID) -> None:
    """Fifty clients, each asking again and again, with and without the tag that they know."""
    with serving(bench) as (address, key):
        headers = {"Authorization": f"Bearer {key}"}
        path = f"{address}/api/studies/{study}/findings"
        tag = httpx.get(path, headers=headers).headers["etag"]
        for says, extra in (("anew", {}), ("with the tag known", {"If-None-Match": tag})):

            def client(_: int, more: dict[str, str] = extra) -> list[float]:
                times = []
                with httpx.Client(headers={**headers, **more}, timeout=60) as link:
                    for _ in range(ASKS):
                        begun = time.perf_counter()
                        link.get(path)
                        times.append((time.perf_counter() - begun) * 1000)
                return times

            with ThreadPoolExecutor(CLIENTS) as pool:
                times = [one for found in pool.map(client, range(CLIENTS)) for one in found]
            print(f"{CLIENTS} clients, {says}: {spread(times, 'ms', 0)}")


def main() -> None:
    with throwaway_bench() as bench:
        studies = bring_in(bench)
        ask_kept(bench, studies)
        ask_together(bench, studies[10_000])


if __name__ == "__main__":
    main()
