"""When a ramp ends: rules that are stated beforehand, each confirmed before it counts."""

from typing import List, NamedTuple, Optional, Sequence

MIB = 2**20


class Sample(NamedTuple):
    """What was read at one instant of a ramp; bytes, seconds, shares; None where it is not told.

    `available` is of the machine, or of what is left within the limit that the application was
    given; `tree` is the PSS of its processes and `shared` how much of that they share with others;
    `own` is what the kernel counts for its group, `cpu_s` its processor seconds; `silent` numbers
    the pages that gave no sign of life for too long.
    """

    at: float
    used: int
    used_nocache: int
    available: int
    swap_used: int
    tree: Optional[int]
    shared: Optional[int]
    own: Optional[int]
    cpu_s: float
    pressure: Optional[float]
    killed: int
    is_alive: bool
    delay_s: float
    silent: Sequence[int] = ()


class StopRules(NamedTuple):
    """The limits of a ramp.

    Attributes
    ----------
    steps : int
        Pages after which it is over in any case.
    launch_s : float
        A page that is not painted by then timed out.
    silence_s : float
        A page that says nothing for so long is lost.
    delay_s : float
        Sign of life later than this on and on.
    floor : int
        Bytes that stay available: the reserve that keeps the machine usable.
    swap_growth : int
        Bytes of swap more than before the first page.
    pressure : float
        Share of time in which something waited for memory (PSI, some, 10 s).
    confirm : int
        Samples in a row that a limit has to be passed in.
    """

    steps: int = 4
    launch_s: float = 60.0
    silence_s: float = 8.0
    delay_s: float = 5.0
    floor: int = 48 * MIB
    swap_growth: int = 256 * MIB
    pressure: float = 0.4
    confirm: int = 3


ALL_CARRIED = "all pages"
TIMED_OUT = "launch timed out"
REASONS = (
    ALL_CARRIED,
    TIMED_OUT,
    "out of memory",
    "application gone",
    "page lost",
    "memory floor",
    "swap growing",
    "pressure",
    "delay",
)
"""How a ramp can end, the gravest first where several hold at once."""


def ended_by(samples: Sequence[Sample], before: Sample, rules: StopRules) -> Optional[str]:
    """The rule that ends a ramp now; None while it goes on.

    A kill and an application that is gone are facts; everything else has to hold for
    `rules.confirm` samples in a row.
    """
    last = samples[-1]
    if last.killed > before.killed:
        return "out of memory"
    if not last.is_alive:
        return "application gone"
    late = samples[-rules.confirm :]
    if len(late) < rules.confirm:
        return None
    held: List[str] = [
        name
        for name, holds in (
            ("page lost", all(one.silent for one in late)),
            ("memory floor", all(one.available < rules.floor for one in late)),
            (
                "swap growing",
                all(one.swap_used - before.swap_used > rules.swap_growth for one in late),
            ),
            ("pressure", all((one.pressure or 0.0) > rules.pressure for one in late)),
            ("delay", all(one.delay_s > rules.delay_s for one in late)),
        )
        if holds
    ]
    return held[0] if held else None
