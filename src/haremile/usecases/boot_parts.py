"""A study's boots, laid out in their parts machine by machine."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from haremile.core.comparison.boot_parts import (
    CHAIN,
    TOTAL,
    BootPart,
    PartSource,
    boot_parts,
    part_sources,
    with_rest,
)
from haremile.core.wording.boot_parts import boot_parts_text
from haremile.errors import NotFoundError
from haremile.formats.captures import BootUnit, parse_boot_units
from haremile.usecases.compare import study_findings
from haremile.usecases.ports import ReadingRepository, StudyRepository

SERVICE_MANAGER = "systemd"
TIMED = frozenset({*CHAIN, TOTAL})


@dataclass(frozen=True)
class OpenedBoot:
    """A boot of which the units are known."""

    run_id: UUID
    block: int


@dataclass(frozen=True)
class LaneParts:
    """The parts of one lane's boots, and how many boots they are taken from.

    `opened` are boots that the service manager told of, so that one can be opened.
    """

    lane_no: int
    runs: int
    parts: tuple[BootPart, ...]
    opened: tuple[OpenedBoot, ...]


@dataclass(frozen=True)
class MachineParts:
    """All lanes of one machine; `sources` are the parts that they have in common."""

    machine: str
    sources: tuple[PartSource, ...]
    lanes: tuple[LaneParts, ...]
    headline: str
    sentence: str


def study_boot_parts(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID
) -> list[MachineParts]:
    """Every machine on which boots were read in two parts at least."""
    study = studies.get(study_id)
    by_lane: dict[int, dict[UUID, dict[tuple[str, str], float]]] = defaultdict(dict)
    opened: dict[int, dict[UUID, int]] = defaultdict(dict)
    for item in readings.readings(study_id):
        if item.metric in TIMED and item.set_aside is None:
            run = by_lane[item.lane_no].setdefault(item.run_id, {})
            run[item.metric, item.method] = item.value
            if item.method == SERVICE_MANAGER:
                opened[item.lane_no][item.run_id] = item.block
    machines: dict[str, list[int]] = defaultdict(list)
    for contender in study.contenders:
        if by_lane[contender.lane_no]:
            machines[contender.install.machine.name].append(contender.lane_no)
    names = {one.lane_no: one.label for one in study.contenders}
    rows = study_findings(studies, readings, study_id).rows
    found = []
    for machine, lanes in machines.items():
        runs = {lane: list(by_lane[lane].values()) for lane in lanes}
        sources = part_sources(list(runs.values()))
        if len(sources) > 1:
            sources = with_rest(list(runs.values()), sources)
            parts = tuple(
                LaneParts(
                    k,
                    len(v),
                    boot_parts(v, sources),
                    tuple(OpenedBoot(run, block) for run, block in opened[k].items()),
                )
                for k, v in runs.items()
            )
            here = [row for row in rows if row.machine == machine]
            chains = {lane.lane_no: lane.parts for lane in parts}
            said = boot_parts_text(chains, sources, here, names)
            found.append(MachineParts(machine, sources, parts, *said))
    return found


def boot_units(readings: ReadingRepository, run_id: UUID) -> Sequence[BootUnit]:
    """What ran when in one boot, in order of start.

    Raises
    ------
    NotFoundError
        If the run brought no evidence, or none of the service manager's units.
    """
    stored = readings.capture_of_run(run_id)
    found = parse_boot_units(stored.kind, stored.body)
    if found is None:
        raise NotFoundError("units of boot", run_id)
    return found
