"""A line of a readings file and the reading that is kept of it, each made of the other.

What a reading keeps of its line stands here, once for both ways.
"""

from haremile.formats.readings_csv import DONE, ReadingLine
from haremile.usecases.ports import NewReading, StoredReading


def reading_of(line: ReadingLine, value: float, step: int) -> NewReading:
    """The reading that a line gives; `step` counts where a run gives its metric several times."""
    return NewReading(
        metric=line.metric,
        method=line.method,
        value=value,
        unit=line.unit,
        resolution=line.resolution,
        step=step,
        set_aside=line.set_aside,
        conditions=line.conditions,
    )


def line_of(
    reading: StoredReading, install: tuple[str, str, str], run: str, procedure: str
) -> ReadingLine:
    """The line that gives this reading again.

    `install` is the contender as the file names it: system, machine, install. `run` is the
    name of the run within the file.
    """
    system, machine, name = install
    return ReadingLine(
        line=0,
        system=system,
        machine=machine,
        install=name,
        metric=reading.metric,
        method=reading.method,
        value=reading.value,
        unit=reading.unit,
        resolution=reading.resolution,
        run=run,
        block=reading.block,
        at=reading.at,
        outcome=DONE,
        reason=None,
        set_aside=reading.set_aside,
        step=reading.step or None,
        procedure=procedure,
        conditions=dict(reading.conditions),
    )
