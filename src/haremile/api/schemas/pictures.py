"""What pictures need beyond findings."""

from uuid import UUID

from pydantic import BaseModel

from haremile.api.schemas.base import Out
from haremile.api.schemas.findings import IntervalOut
from haremile.core.load.smallest import Fit
from haremile.core.wording.boot_parts import part_label
from haremile.usecases.boot_parts import MachineParts, OpenedBoot


class PartSourceOut(Out):
    metric: str
    label: str
    method: str


class BootPartOut(Out):
    metric: str
    label: str
    start: float
    end: float
    end_interval: IntervalOut | None


class LanePartsOut(Out):
    lane_no: int
    runs: int
    parts: list[BootPartOut]
    opened: list[OpenedBoot]


class BootPartsOut(Out):
    machine: str
    sources: list[PartSourceOut]
    lanes: list[LanePartsOut]
    headline: str
    sentence: str

    @classmethod
    def of(cls, found: MachineParts) -> "BootPartsOut":
        """From the parts of one machine's boots, each with its label."""
        return cls(
            machine=found.machine,
            sources=[
                PartSourceOut(metric=s.metric, label=part_label(s.metric), method=s.method)
                for s in found.sources
            ],
            lanes=[
                LanePartsOut(
                    lane_no=lane.lane_no,
                    runs=lane.runs,
                    opened=list(lane.opened),
                    parts=[
                        BootPartOut.model_validate({**vars(part), "label": part_label(part.metric)})
                        for part in lane.parts
                    ],
                )
                for lane in found.lanes
            ],
            headline=found.headline,
            sentence=found.sentence,
        )


class UnitOut(BaseModel):
    """A unit of the service manager; seconds since the kernel began."""

    name: str
    start_s: float
    ready_s: float | None


class BootUnitsOut(BaseModel):
    """What ran when in one boot."""

    run_id: UUID
    units: list[UnitOut]


class NeedOut(Out):
    """Bytes that so many pages need, typically and within which limits."""

    typical: float
    low: float
    high: float
    level: float
    runs: int


class RampRunOut(Out):
    """One ramp: memory in use at each page that was carried, bytes; what ended it; the `memory`
    that there was."""

    run_id: UUID
    block: int
    used: list[float]
    carried: int
    ended: str
    swap_at: int | None
    memory: float | None


class CheckOut(Out):
    """Ramps on machines of a size that carried so many pages, of those that tell."""

    held: int
    of: int


class LaneRampsOut(Out):
    """A contender's ramps with one application; `fits` says of each size whether it does, `checks`
    what was seen on machines of that size."""

    lane_no: int
    machine: str
    app: str
    runs: list[RampRunOut]
    carried: float
    is_at_least: bool
    base: float | None
    step: float | None
    need: NeedOut | None
    fits: list[Fit]
    checks: list[CheckOut | None]


class RampsOut(Out):
    """A study's ramps; `fits` speaks of `sizes`, in bytes; `noun` is what was opened."""

    sizes: list[float]
    lanes: list[LaneRampsOut]
    headline: str
    sentences: list[str]
    noun: str
