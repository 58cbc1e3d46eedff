"""Runs a minute of one conductor on 50 simulated machines, against bare commits of their rows."""

import time

import psycopg
from common import throwaway_bench

from haremile.core.records.study import Install, Machine, System
from haremile.core.simulation.machine import LaneTruth, MetricTruth
from haremile.rigs.simulated import SimulatedRig
from haremile.usecases.conduct import Conductor
from haremile.usecases.ports import StudyPlan

MACHINES, RUNS = 50, 50
TABLES = ("attempt", "capture", "reading", "event")
COMMITS_OF_A_RUN = 3  # leased, begun, finished


def truth() -> LaneTruth:
    parts = {f"boot.{part}": MetricTruth(3.0, 0.1) for part in ("firmware", "kernel", "userspace")}
    memory = {"memory.used": MetricTruth(4e8, 1e6), "process.count": MetricTruth(120.0, 1.0)}
    return LaneTruth({**parts, **memory})


def rows_by_run(link: psycopg.Connection) -> list[list[tuple[str, tuple[object, ...]]]]:
    """What each run left, as statements that write the same again."""
    by_run: dict[object, list[tuple[str, tuple[object, ...]]]] = {}
    owner = {
        "attempt": "select run_id, attempt.* from attempt",
        "capture": "select run_id, capture.* from capture join attempt on capture_id = capture.id",
        "reading": "select run_id, reading.* from reading join attempt on attempt_id = attempt.id",
        "event": "select run, event.* from event where run is not null",
    }
    for table in TABLES:
        link.execute(f"create table bare_{table} (like {table} including all)")
        for run_id, *values in link.execute(owner[table]):
            marks = ", ".join(["%s"] * len(values))
            dumped = tuple(
                psycopg.types.json.Jsonb(v) if isinstance(v, dict) else v for v in values
            )
            by_run.setdefault(run_id, []).append(
                (f"insert into bare_{table} values ({marks})", dumped)
            )
    link.commit()
    return list(by_run.values())


def bare(link: psycopg.Connection, runs: list, commits: int) -> float:
    """Write them again, each run's rows in so many commits; seconds."""
    for table in TABLES:
        link.execute(f"truncate bare_{table}")
    link.commit()
    begun = time.monotonic()
    for statements in runs:
        size = -(-len(statements) // commits)
        for first in range(0, len(statements), size):
            for text, values in statements[first : first + size]:
                link.execute(text, values)
            link.commit()
    return time.monotonic() - begun


def main() -> None:
    with throwaway_bench() as bench:
        installs = [
            Install(
                System("A"),
                Machine(f"Bench {i:02}", "simulated"),
                rig="simulated",
                recipe={"truth": "A"},
            )
            for i in range(MACHINES)
        ]
        labels = [install.machine.name for install in installs]
        study = bench.studies.create(StudyPlan("benchmark", installs, RUNS, 1, labels=labels))
        rigs = {"simulated": SimulatedRig({"A": truth()}, 1e9)}
        conductor = Conductor(bench.studies, bench.queue, bench.events, rigs)
        begun = time.monotonic()
        conductor.conduct(study.id)
        ours = time.monotonic() - begun
        total = MACHINES * RUNS
        print(f"one conductor: {total / ours * 60:,.0f} runs a minute ({ours:.1f} s for {total})")
        with psycopg.connect(bench.url) as link:
            runs = rows_by_run(link)
            print(f"rows of a run: {sum(map(len, runs)) / len(runs):.1f}")
            for commits in (COMMITS_OF_A_RUN, 1):
                took = bare(link, runs, commits)
                print(
                    f"bare, {commits} commits a run: {total / took * 60:,.0f} a minute; "
                    f"the conductor does {took / ours:.2f} of that"
                )


if __name__ == "__main__":
    main()
