"""The list of 500 studies, the library of 300 systems and the outlook of a plan, over HTTP, against
the smallest answer of the same server in the same run.
"""

import statistics
import time

import httpx
from common import throwaway_bench
from large_studies import serving

from haremile.bootstrap import Bench
from haremile.core.records.library import Noun, Source
from haremile.core.records.study import Install, Machine, System
from haremile.usecases.import_readings import import_study

STUDIES, SYSTEMS, ASKS = 500, 300, 30
MACHINES, CONTENDERS = 3, 8


def filled(bench: Bench) -> list[str]:
    """Fill the bench book; return the installs of a plan of eight contenders on three machines."""
    for number in range(STUDIES):
        rows = "".join(
            f"Varrow {number % SYSTEMS},Bench,boot.total,{10 + n / 10},s\n"
            f"Quillfern {number % 7},Bench,boot.total,{12 + n / 10},s\n"
            for n in range(6)
        )
        body = f"system,machine,metric,value,unit\n{rows}".encode()
        import_study(bench.studies, bench.readings, f"Which, {number}?", body)
    for system in bench.things.all(Noun.SYSTEM):
        for fact in ("channel", "desktop", "kernel"):
            bench.things.state(Noun.SYSTEM, system.id, fact, "as noted", Source("a page"))
    installs = [
        bench.library.ensure(Install(System(f"Varrow {c}"), Machine(f"Bench {m}", "simulated")))
        for m in range(MACHINES)
        for c in range(CONTENDERS)
    ]
    return [str(one.id) for one in installs]


def median_ms(client: httpx.Client, method: str, path: str, **more: object) -> float:
    took = []
    for _ in range(ASKS):
        begun = time.perf_counter()
        answer = client.request(method, path, **more)
        took.append(time.perf_counter() - begun)
        answer.raise_for_status()
    return 1000 * statistics.median(took)


def main() -> None:
    with throwaway_bench() as bench:
        installs = filled(bench)
        with (
            serving(bench) as (address, key),
            httpx.Client(base_url=address, headers={"Authorization": f"Bearer {key}"}) as client,
        ):
            begun = time.perf_counter()
            while not all(one["is_current"] for one in client.get("/api/studies").json()):
                time.sleep(0.2)
            print(f"{STUDIES} answers calculated in {time.perf_counter() - begun:.1f} s")
            least = median_ms(client, "GET", "/api/procedures")
            plan = {
                "installs": installs,
                "blocks": 12,
                "procedures": ["boot", "idle", "footprint", "launch:Coppicer"],
            }
            for name, method, path, more in (
                (f"list of {STUDIES} studies", "GET", "/api/studies", {}),
                (f"library of {SYSTEMS} systems", "GET", "/api/systems", {}),
                ("outlook of a plan", "POST", "/api/studies/outlook", {"json": plan}),
            ):
                took = median_ms(client, method, path, **more)
                print(f"{name}: {took:.0f} ms, {took / least:.1f} × the smallest answer")
            print(f"smallest answer (procedures): {least:.1f} ms")


if __name__ == "__main__":
    main()
