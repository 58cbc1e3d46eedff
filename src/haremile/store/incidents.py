"""Incidents and hours in use; what was noted by mistake is put away, never lost."""

from uuid import UUID

from haremile.core.standing.incidents import HoursInUse, Incident, IncidentKind
from haremile.errors import ConflictError, NotFoundError
from haremile.store.database import connected
from haremile.store.events import note_act
from haremile.store.rows import HoursRow, IncidentRow, MachineRow, SystemRow, database, now

MOST_NOTED = 20_000


class PostgresIncidents:
    """Keeps what went wrong, and for how long systems were in use."""

    @connected
    def incidents(self) -> list[Incident]:
        """All that are not put away, the newest first."""
        rows = IncidentRow.select().where(IncidentRow.put_away_at.is_null())
        return [
            Incident(
                row.id, row.system_id, row.machine_id, IncidentKind(row.kind), row.what, row.at
            )
            for row in rows.order_by(IncidentRow.at.desc())
        ]

    @connected
    def hours(self) -> list[HoursInUse]:
        """All that are not put away, the newest first."""
        rows = HoursRow.select().where(HoursRow.put_away_at.is_null())
        return [
            HoursInUse(row.id, row.system_id, row.machine_id, row.hours, row.at)
            for row in rows.order_by(HoursRow.at.desc())
        ]

    @connected
    def note(self, one: Incident) -> None:
        """Keep an incident under its id; the same again changes nothing. Raises NotFoundError,
        ConflictError if there are too many."""
        with database.atomic():
            check_placed(one.system, one.machine)
            if IncidentRow.select().count() >= MOST_NOTED:
                raise ConflictError(f"{MOST_NOTED} incidents are noted; no more are kept")
            made = (
                IncidentRow.insert(
                    id=one.id,
                    system=one.system,
                    machine=one.machine,
                    kind=one.kind,
                    what=one.what,
                    at=one.at,
                )
                .on_conflict_ignore()
                .execute()
            )
            if made:
                system = SystemRow.get_by_id(one.system).name
                note_act("incident.noted", None, {"system": system, "kind": str(one.kind)})

    @connected
    def note_hours(self, one: HoursInUse) -> None:
        """Keep hours in use under their id; the same again changes nothing. Raises as `note`."""
        with database.atomic():
            check_placed(one.system, one.machine)
            if HoursRow.select().count() >= MOST_NOTED:
                raise ConflictError(f"hours are noted {MOST_NOTED} times; no more are kept")
            made = (
                HoursRow.insert(
                    id=one.id,
                    system=one.system,
                    machine=one.machine,
                    hours=one.hours,
                    at=one.at,
                )
                .on_conflict_ignore()
                .execute()
            )
            if made:
                system = SystemRow.get_by_id(one.system).name
                note_act("hours.noted", None, {"system": system, "hours": one.hours})

    @connected
    def put_away(self, key: UUID, is_away: bool) -> None:
        """An incident or hours out of the count, or back. Raises NotFoundError."""
        with database.atomic():
            for row in (IncidentRow, HoursRow):
                away = now() if is_away else None
                changed = row.update(put_away_at=away).where(row.id == key).execute()
                if changed:
                    what = "noted.put_away" if is_away else "noted.back"
                    note_act(what, None, {"noted": str(key)})
                    return
        raise NotFoundError("incident", key)


def check_placed(system: UUID, machine: UUID | None) -> None:
    """Raises NotFoundError unless both are known."""
    if not SystemRow.select().where(SystemRow.id == system).exists():
        raise NotFoundError("system", system)
    if machine is None:
        return
    if not MachineRow.select().where(MachineRow.id == machine).exists():
        raise NotFoundError("machine", machine)
