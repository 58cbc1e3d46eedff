"""Where the noise sits, and what would make the next study shorter, in words."""

import math
from collections.abc import Mapping

from haremile.core.records.procedures import runs_of
from haremile.core.records.units import Scale
from haremile.core.statistics.noise import NoiseBudget, NoiseSource
from haremile.core.wording.numbers import count, duration_text, finer_scale

PLACES = {
    NoiseSource.BLOCKS: "between blocks",
    NoiseSource.INSTALLS: "between installs of one system",
    NoiseSource.RUNS: "from run to run",
}
HARDLY = 0.95
"""Where so much of the variation stays, a second install of each spares little."""

SOON = 1.15
"""Repeats that are spared are told from this factor on."""


def noise_headline(found: NoiseBudget) -> str:
    """Where most of it sits."""
    known = [part for part in found.parts if part.share is not None]
    if not known:
        return "The readings do not vary"
    most = max(known, key=lambda part: part.share or 0.0)
    return f"{100.0 * (most.share or 0.0):.0f} % of the noise lies {PLACES[most.source]}"


def noise_advice(
    found: NoiseBudget, scale: Scale, seconds: Mapping[str, float], procedure: str
) -> tuple[str, ...]:
    """What would make the next study shorter, and what would not.

    Parameters
    ----------
    found : NoiseBudget
    scale : Scale
    seconds : mapping of procedure to the mean time of its runs
    procedure : str
        That gives these readings.
    """
    return (
        *_of_blocks(found),
        *_of_installs(found, scale),
        *_of_settling(found),
        *_of_phases(seconds, procedure),
    )


def _of_blocks(found: NoiseBudget) -> list[str]:
    between, within = found.variance(NoiseSource.BLOCKS), found.variance(NoiseSource.RUNS)
    more = "Twice the blocks make an interval 0.71 times as wide."
    if between is None or not within:
        return [more]
    factor = (between + within) / within
    repeats = max(math.ceil(found.blocks * factor), found.blocks)
    if factor < SOON:
        return [f"Blocks are nearly alike: comparing within them spares no repeats. {more}"]
    return [
        f"Blocks differ: compared within them, {count(found.blocks, 'block')} tell what {repeats} "
        f"would without. {more}"
    ]


def _of_installs(found: NoiseBudget, scale: Scale) -> list[str]:
    installs, within = found.variance(NoiseSource.INSTALLS), found.variance(NoiseSource.RUNS) or 0.0
    if installs is None:
        return [
            "Each system stands on one install here, so that nothing tells what lies between "
            "installs; a second install of one system would."
        ]
    now = math.sqrt(installs + within / found.blocks)
    split = math.sqrt(installs / 2.0 + within / found.blocks)
    if split > HARDLY * now:
        return [
            "Installs of one system are nearly alike: two of each in place of one spare little."
        ]
    finer = finer_scale(scale, (now - split) / 2.0)  # written so that the two can be told apart
    return [
        f"With as many runs, but on two installs of each system in place of one, the figure of a "
        f"system would vary by {finer.amount(split)} instead of {finer.amount(now)}."
    ]


def _of_settling(found: NoiseBudget) -> list[str]:
    if found.likeness is None:
        return []
    limits = f"{found.likeness.low:.1f} to {found.likeness.high:.1f}".replace("-", "−")
    if found.likeness.low > 0.0:
        return [
            f"A run resembles the one before it (correlation {limits}): settle longer, or wait "
            "between runs."
        ]
    return [
        f"A run does not resemble the one before it ({limits}): a longer wait would spare nothing."
    ]


def _of_phases(seconds: Mapping[str, float], procedure: str) -> list[str]:
    whole = sum(seconds.values())
    mine = seconds.get(procedure)
    if mine is None or whole <= 0.0:
        return []
    told = f"{runs_of(procedure).capitalize()} take {duration_text(mine)} each"
    if len(seconds) == 1:
        return [f"{told}: what is cut from that is cut from every run."]
    longest = max(seconds, key=lambda one: seconds[one])
    if longest == procedure:
        return [f"{told}, {100.0 * mine / whole:.0f} % of the time of a block."]
    share = 100.0 * seconds[longest] / whole
    return [
        f"{told}; {runs_of(longest)} take {share:.0f} % of the time of a block: a study without "
        "them would be that much shorter."
    ]
