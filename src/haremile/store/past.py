"""What past runs tell of the next ones: how readings scatter, and how long runs take."""

from haremile.store.database import connected, rows_of

SPREADS = """
    select reading.method, install.id as install, count(*) as n, avg(reading.value) as mean,
        coalesce(var_samp(reading.value), 0) as variance
    from reading
    join lane on lane.id = reading.lane_id
    join attempt on attempt.id = reading.attempt_id
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join study on study.id = run.study_id
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where machine.name = %s and reading.metric = %s and run.state = 'done'
        and reading.set_aside is null and study.put_away_at is null
        and (%s::text is null or lane.conditions->>'app' = %s)
    group by reading.method, study.id, install.id, lane.condition_hash having count(*) > 1
"""
TYPICAL = """
    select percentile_cont(0.5) within group (
        order by extract(epoch from attempt.finished_at - attempt.started_at)
    ) as seconds
    from attempt
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where machine.name = %s and run.procedure = %s and run.state = 'done'
        and attempt.finished_at > attempt.started_at
"""


class PostgresPastRuns:
    """Looks back over everything that was measured."""

    @connected
    def spreads(
        self, machine: str, metric: str, application: str | None = None
    ) -> tuple[str, list[tuple[int, float, float]]]:
        """The method with the most readings, and of each install in each study the number of
        readings, their mean and variance."""
        by_method: dict[str, list[tuple[int, float, float]]] = {}
        for row in rows_of(SPREADS, machine, metric, application, application):
            by_method.setdefault(row.method, []).append((row.n, row.mean, row.variance))
        if not by_method:
            return "", []
        method = max(by_method, key=lambda name: sum(n for n, _, _ in by_method[name]))
        return method, by_method[method]

    @connected
    def typical_s(self, machine: str, procedure: str) -> float | None:
        """The median length of its runs, seconds; None where there was none."""
        (row,) = rows_of(TYPICAL, machine, procedure)
        return None if row.seconds is None else float(row.seconds)
