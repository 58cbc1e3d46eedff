"""One measure over several machines: who is ahead where, and the ratio of each pair."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence

from haremile.core.comparison.machines import MachineRatio, combined, mirrored_machines
from haremile.core.comparison.records import (
    FindingRow,
    MachineLeader,
    MachinesRow,
    PairOverMachines,
)
from haremile.core.comparison.verdict import Verdict
from haremile.core.statistics.families import error_of_pair

ERROR = 0.05


def over_machines(rows: Sequence[FindingRow], names: Mapping[int, str]) -> tuple[MachinesRow, ...]:
    """Put the rows of one measure on several machines together.

    Parameters
    ----------
    rows : sequence of FindingRow
    names : mapping of lane number to the name of its entrant

    Notes
    -----
    The unit of replication is the machine: the interval of the mean comes from the ratios of
    medians, its error shared out over all pairs; those of single machines are the rows' own. Rows
    that are not comparable stay out, as do pairs without a ratio: where a reading may be zero, or
    most runs of a lane timed out.
    """
    groups: dict[tuple[str, str, str, str], list[FindingRow]] = defaultdict(list)
    for row in rows:
        if row.verdict is not Verdict.NOT_COMPARABLE and row.pairs:
            groups[row.metric, row.method, row.start or "", row.facet].append(row)
    made = [_row(found, names) for found in groups.values() if len(found) > 1]
    return tuple(row for row in made if row.pairs)


def _row(rows: Sequence[FindingRow], names: Mapping[int, str]) -> MachinesRow:
    first = rows[0]
    leaders = tuple(MachineLeader(r.machine, names[r.leader] if r.leader else None) for r in rows)
    ratios: dict[tuple[str, str], list[MachineRatio]] = defaultdict(list)
    rank = {name: place for place, name in enumerate(dict.fromkeys(names.values()))}
    for row in rows:
        medians = {lane.lane_no: lane.summary.median for lane in row.lanes if lane.summary}
        for pair in row.pairs:
            a, b, ratio = names[pair.a], names[pair.b], pair.found.contrast.ratio
            both = (medians[pair.a], medians[pair.b])
            if ratio is None or not all(map(math.isfinite, both)) or rank[a] >= rank[b]:
                continue  # time-outs leave no ratio; the other direction is its mirror image
            ratios[a, b].append(MachineRatio(row.machine, both[1] / both[0], ratio))
    shared = {key: parts for key, parts in ratios.items() if len(parts) > 1}
    level = 1.0 - ERROR / max(len(shared), 1)
    of_machines = 1.0 - error_of_pair(ERROR, max(len(rank), 2))
    found = {key: combined(parts, level, of_machines) for key, parts in shared.items()}
    found |= {(b, a): mirrored_machines(one) for (a, b), one in found.items()}
    pairs = tuple(PairOverMachines(a, b, one) for (a, b), one in found.items())
    return MachinesRow(
        key="|".join([first.metric, first.method, first.start or "", first.facet]),
        metric=first.metric,
        method=first.method,
        start=first.start,
        facet=first.facet,
        good_end=first.good_end,
        leaders=leaders,
        pairs=pairs,
    )
