"""A study's boots, laid out in their parts machine by machine."""

from collections import defaultdict
from dataclasses import dataclass
from uuid import UUID

from haremile.bench.ports import ReadingBook, StudyBook
from haremile.core.boot_parts import CHAIN, BootPart, PartSource, boot_parts, part_sources


@dataclass(frozen=True)
class LaneParts:
    """The parts of one lane's boots, and how many boots they are taken from."""

    lane_no: int
    runs: int
    parts: tuple[BootPart, ...]


@dataclass(frozen=True)
class MachineParts:
    """All lanes of one machine; `sources` are the parts that they have in common."""

    machine: str
    sources: tuple[PartSource, ...]
    lanes: tuple[LaneParts, ...]


def study_boot_parts(
    studies: StudyBook, readings: ReadingBook, study_id: UUID
) -> list[MachineParts]:
    """Every machine on which boots were read in two parts at least."""
    study = studies.get(study_id)
    by_lane: dict[int, dict[UUID, dict[tuple[str, str], float]]] = defaultdict(dict)
    for item in readings.readings(study_id):
        if item.metric in CHAIN and item.set_aside is None:
            run = by_lane[item.lane_no].setdefault(item.run_id, {})
            run[item.metric, item.method] = item.value
    machines: dict[str, list[int]] = defaultdict(list)
    for contender in study.contenders:
        if by_lane[contender.lane_no]:
            machines[contender.install.machine.name].append(contender.lane_no)
    found = []
    for machine, lanes in machines.items():
        runs = {lane: list(by_lane[lane].values()) for lane in lanes}
        sources = part_sources(list(runs.values()))
        if len(sources) > 1:
            parts = tuple(LaneParts(k, len(v), boot_parts(v, sources)) for k, v in runs.items())
            found.append(MachineParts(machine, sources, parts))
    return found
