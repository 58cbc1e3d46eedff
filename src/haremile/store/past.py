"""What past runs tell of the next ones: how readings scatter, how long it takes, how it began."""

from collections.abc import Mapping, Sequence
from uuid import UUID

from haremile.store.database import connected, rows_of
from haremile.usecases.ports import PastSpread

SPREADS = """
    with known as (
    select machine.name as machine, reading.metric, reading.method,
        coalesce(lane.conditions->>'app', '') as app,
        coalesce(lane.conditions->>'start', '') as start,
        lane.id as lane, reading.value, avg(reading.value) over (partition by lane.id) as mean
    from reading
    join lane on lane.id = reading.lane_id
    join attempt on attempt.id = reading.attempt_id
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join study on study.id = run.study_id
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where machine.name = any(%s) and run.state = 'done'
        and reading.set_aside is null and study.put_away_at is null
    )
    select machine, metric, method, app, start, count(*) as n, avg(value) as mean,
        coalesce(var_samp(value), 0) as variance, avg((value - mean) ^ 3) as third
    from known
    group by machine, metric, method, app, start, lane
    having count(*) > 1
"""
LENGTHS = """
    select machine.name as machine, run.procedure, percentile_cont(0.5) within group (
        order by extract(epoch from attempt.finished_at - attempt.started_at)
    ) as seconds
    from attempt
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where machine.name = any(%s) and run.state = 'done'
        and attempt.finished_at > attempt.started_at
    group by machine.name, run.procedure
"""
BEGINNINGS = """
    select distinct on (contender.install_id) contender.install_id as install, attempt.conditions
    from contender
    join run on run.contender_id = contender.id and run.state = 'done'
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    where contender.install_id = any(%s) and attempt.conditions <> '{}'
    order by contender.install_id, attempt.id desc
"""


class PostgresPastRuns:
    """Looks back over everything that was measured."""

    @connected
    def spreads(self, machines: Sequence[str]) -> list[PastSpread]:
        """Of each install in each study on these machines, for each measure, how readings lay."""
        return [
            PastSpread(
                row.machine,
                row.metric,
                row.method,
                row.app,
                row.start,
                row.n,
                row.mean,
                row.variance,
                row.third,
            )
            for row in rows_of(SPREADS, list(machines))
        ]

    @connected
    def typical_s(self, machines: Sequence[str]) -> dict[tuple[str, str], float]:
        """The median length of the runs of a machine and a procedure, seconds."""
        rows = rows_of(LENGTHS, list(machines))
        return {(row.machine, row.procedure): float(row.seconds) for row in rows}

    @connected
    def beginnings(self, installs: Sequence[UUID]) -> dict[UUID, Mapping[str, str]]:
        """The conditions that each install's newest run stated."""
        return {row.install: row.conditions for row in rows_of(BEGINNINGS, list(installs))}
