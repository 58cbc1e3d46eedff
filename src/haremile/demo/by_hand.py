"""A race of the sample world that a person timed: two sticks in a laptop that runs nothing of ours.

As in `world`, what is true stands here; nothing is real.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid5

import numpy as np

from haremile.core.by_hand.marks import Mark
from haremile.core.by_hand.reaction import Reaction, reaction
from haremile.usecases.by_hand import HandResult, hand_capture
from haremile.usecases.quoted import Quote
from haremile_probe.wire import dump_capture

BEGUN = datetime(2026, 10, 3, 9, 0, tzinfo=UTC)
BETWEEN = timedelta(minutes=6)
NAMES = UUID("6d1f1c52-6f0c-4a53-9a51-5a7e3f7b2c10")


@dataclass(frozen=True)
class HandTruth:
    """What is true of a race by hand, in seconds.

    Attributes
    ----------
    loader_s : float
        From power on to the boot loader.
    desktop_s : mapping
        From power on to the desktop by system, without the wait in the menu.
    scatter_s : float
        Of the boots themselves.
    delay_s, delay_scatter_s : float
        Of the person who times.
    """

    title: str
    machine: str
    person: str
    races: int
    seed: int
    loader_s: float
    desktop_s: Mapping[str, float]
    scatter_s: float
    delay_s: float
    delay_scatter_s: float


STICKS = HandTruth(
    title="Which stick is sooner at its desktop on a shop laptop?",
    machine="Shop laptop",
    person="Ida",
    races=12,
    seed=73,
    loader_s=4.2,
    desktop_s={"Varrow 12 Thistlow": 31.8, "Marlstone 26.1 Mossgate": 36.1},
    scatter_s=0.5,
    delay_s=0.23,
    delay_scatter_s=0.05,
)

EARLIER = Quote(
    id=uuid5(NAMES, "quoted"),
    lane_no=2,
    row_key=f"boot.total|{STICKS.machine}|hand|",
    text="39 s",
    text_to="42 s",
    unit=None,
    source="Seed Bank Circular 14",
    dated="2026-05",
)


def hand_files() -> list[tuple[str, bytes]]:
    """Captures of every lane of every race, as they are handed in."""
    rng = np.random.default_rng(STICKS.seed)
    drill = _drill(rng)
    return [
        (f"race {race + 1}, {system}", _capture(race, system, desktop, drill, rng))
        for race in range(STICKS.races)
        for system, desktop in STICKS.desktop_s.items()
    ]


def _drill(rng: np.random.Generator) -> Reaction:
    return reaction([_late(rng) for _ in range(15)])


def _late(rng: np.random.Generator) -> float:
    return max(float(rng.normal(STICKS.delay_s, STICKS.delay_scatter_s)), 0.1)


def _capture(
    race: int, system: str, desktop: float, drill: Reaction, rng: np.random.Generator
) -> bytes:
    loader = STICKS.loader_s + rng.normal(0.0, 0.08)
    in_menu = rng.uniform(1.5, 4.0)
    ready = desktop + rng.normal(0.0, STICKS.scatter_s) + in_menu
    marks = [
        Mark("power", 0.0),
        Mark("loader", loader + _late(rng)),
        Mark("menu", loader + in_menu),
        Mark("desktop", ready + _late(rng)),
    ]
    result = HandResult(
        id=uuid5(NAMES, f"{race} {system}"),
        system=system,
        machine=STICKS.machine,
        procedure="boot",
        at=BEGUN + race * BETWEEN,
        person=STICKS.person,
        method="hand",
        marks=marks,
        conditions={"medium": "live", "autologin": "yes", "power": "mains"},
    )
    return dump_capture(hand_capture(result, drill))
