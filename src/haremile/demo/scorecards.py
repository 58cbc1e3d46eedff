"""What the seed bank's testers say of its systems, and what works on which machine."""

from datetime import UTC, datetime
from uuid import UUID, uuid5

from haremile.core.records.library import Noun
from haremile.core.standing.scorecard import (
    Criterion,
    Point,
    Scorecard,
    ScoreKind,
    ScoreScale,
    StepWord,
    Tie,
    TieKind,
)
from haremile.core.standing.works import Works, WorksItem
from haremile.usecases.ports import Incidents, Scorecards, Things

_NAMES = UUID("0d6a6f2e-51ac-4be2-9f56-1a0b7c1f54d2")
SEEN = datetime(2026, 10, 3, 9, tzinfo=UTC)
STARS = ScoreScale(
    ScoreKind.STARS,
    (
        StepWord(0, "not for us"),
        StepWord(2, "with patience"),
        StepWord(3, "does its work"),
        StepWord(4, "a pleasure"),
    ),
)
CARDS = (
    (
        "Varrow 12 Tarnwick",
        Scorecard(
            STARS,
            (
                Criterion("Installing", 4.0, "four questions, none of them twice"),
                Criterion("Start and rest", 4.5, "see the measurements"),
                Criterion("First hour", 3.5, "the ledger opens, the printer asks for a step"),
                Criterion("Keeping it up to date", 4.0),
            ),
            (
                Point(True, "Leaves most of the memory to the ledger"),
                Point(True, "Updates wait until they are asked for"),
                Point(False, "The file manager once hung on a full card"),
            ),
            "Field terminals that are switched on and off many times a day.",
            "Desks with two screens: the second one has to be set up by hand.",
        ),
    ),
    (
        "Quillfern 9-rc Tarnwick",
        Scorecard(
            STARS,
            (
                Criterion("Installing", 3.0),
                Criterion("Start and rest", 4.0),
                Criterion("First hour", 2.0, "five incidents in a month"),
                Criterion("Keeping it up to date", 1.5, "an update took the sound away"),
            ),
            (Point(True, "Starts sooner than the release before"), Point(False, "Crashes")),
            "Who wants to report what breaks.",
            "Any terminal that somebody depends on.",
        ),
    ),
    (
        "Marlstone 26.1 Mossgate",
        Scorecard(
            STARS,
            (
                Criterion("Installing", 4.5),
                Criterion("Start and rest", 2.5),
                Criterion("First hour", 4.5, "everything is where one looks for it"),
                Criterion("Keeping it up to date", 3.5),
            ),
            (Point(True, "Printing and scanning without a step"),),
            "Desks in the germination room.",
            "Machines with 2 GiB or less.",
        ),
    ),
)
LAPTOP, DESK = "Herbarium laptop", "Germination-room mini PC"
WORKING = (
    ("Varrow 12 Tarnwick", LAPTOP, "wireless", Works.WORKS, "", None),
    ("Varrow 12 Tarnwick", LAPTOP, "sound", Works.WORKS, "", None),
    ("Varrow 12 Tarnwick", LAPTOP, "printing", Works.STEP, "add the printer by its address", None),
    ("Varrow 12 Tarnwick", LAPTOP, "sleep and wake", Works.SOMETIMES, "", (18, 20)),
    ("Varrow 12 Tarnwick", LAPTOP, "a clip plays", Works.WORKS, "", None),
    ("Varrow 12 Tarnwick", LAPTOP, "camera", Works.NOT_TRIED, "", None),
    ("Quillfern 9-rc Tarnwick", LAPTOP, "wireless", Works.WORKS, "", None),
    ("Quillfern 9-rc Tarnwick", LAPTOP, "sound", Works.FAILS, "", None),
    ("Quillfern 9-rc Tarnwick", LAPTOP, "sleep and wake", Works.FAILS, "", None),
    ("Marlstone 26.1 Mossgate", LAPTOP, "wireless", Works.STEP, "switch it on in the menu", None),
    ("Marlstone 26.1 Mossgate", LAPTOP, "sleep and wake", Works.WORKS, "", None),
    ("Marlstone 26.1 Mossgate", DESK, "printing", Works.WORKS, "", None),
    ("Marlstone 26.1 Mossgate", DESK, "sound", Works.WORKS, "", None),
)
"""System, machine, subject, whether it works, the step, and how often of how many tries."""


def load_scorecards(cards: Scorecards, things: Things, incidents: Incidents) -> None:
    """Keep them, once: where a system has a card, it stays as it is."""
    systems = {one.name: one.id for one in things.all(Noun.SYSTEM)}
    machines = {one.name: one.id for one in things.all(Noun.MACHINE)}
    happened = {one.system: one.id for one in incidents.incidents()}
    for name, card in CARDS:
        key = systems[name]
        if cards.versions(key):
            continue
        points = tuple(_tied(one, happened.get(key)) for one in card.points)
        made = Scorecard(card.scale, card.criteria, points, card.for_whom, card.not_for_whom)
        cards.keep(key, made, after=0)
    for name, machine, subject, works, step, counted in WORKING:
        key = uuid5(_NAMES, f"{name} {machine} {subject}")
        worked, tried = counted or (None, None)
        cards.note_works(
            WorksItem(
                key,
                systems[name],
                machines[machine],
                subject,
                works,
                step,
                worked,
                tried,
                at=SEEN,
            )
        )


def _tied(point: Point, incident: UUID | None) -> Point:
    """A bad point rests on the newest incident, where there is one."""
    if point.is_good or incident is None:
        return point
    return Point(False, point.says, Tie(TieKind.INCIDENT, str(incident)))
