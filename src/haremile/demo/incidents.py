"""What went wrong at the seed bank's terminals while they were in use."""

from datetime import UTC, datetime
from uuid import UUID, uuid5

from haremile.core.records.library import Noun
from haremile.core.standing.incidents import HoursInUse, Incident, IncidentKind
from haremile.usecases.ports import Incidents, Things

_NAMES = UUID("5a1d0c52-8c0e-4f0e-9d57-2f5f3c1f0a11")
NOTED = datetime(2026, 10, 2, 17, tzinfo=UTC)
HOURS = (
    ("Varrow 12 Tarnwick", "Herbarium laptop", 410.0),
    ("Quillfern 9-rc Tarnwick", "Germination-room mini PC", 260.0),
    ("Marlstone 26.1 Mossgate", "Germination-room mini PC", 330.0),
)
HAPPENED = (
    ("Varrow 12 Tarnwick", "Herbarium laptop", IncidentKind.HANG, "Coppicer on a full card", 3),
    ("Quillfern 9-rc Tarnwick", "Germination-room mini PC", IncidentKind.CRASH, "Wayfarrow", 5),
    ("Quillfern 9-rc Tarnwick", "Germination-room mini PC", IncidentKind.HANG, "at waking", 9),
    ("Quillfern 9-rc Tarnwick", "Germination-room mini PC", IncidentKind.UPDATE, "no sound", 12),
    ("Quillfern 9-rc Tarnwick", "Germination-room mini PC", IncidentKind.CRASH, "Inkwarren", 14),
    ("Quillfern 9-rc Tarnwick", "Germination-room mini PC", IncidentKind.CRASH, "the panel", 20),
    ("Marlstone 26.1 Mossgate", "Germination-room mini PC", IncidentKind.UPDATE, "printing", 8),
    ("Marlstone 26.1 Mossgate", "Germination-room mini PC", IncidentKind.HANG, "at login", 22),
)
"""System, machine, what happened, and on which day of September."""


def load_incidents(noted: Incidents, things: Things) -> None:
    """Note them, once."""
    systems = {one.name: one.id for one in things.all(Noun.SYSTEM)}
    machines = {one.name: one.id for one in things.all(Noun.MACHINE)}
    for system, machine, hours in HOURS:
        key = uuid5(_NAMES, f"{system} {hours}")
        noted.note_hours(HoursInUse(key, systems[system], machines[machine], hours, NOTED))
    for system, machine, kind, what, day in HAPPENED:
        at = datetime(2026, 9, day, 10, 30, tzinfo=UTC)
        key = uuid5(_NAMES, f"{system} {what}")
        noted.note(Incident(key, systems[system], machines[machine], kind, what, at))
