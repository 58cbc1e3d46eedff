"""Systems, machines and installs."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any
from uuid import UUID

from peewee import JOIN

from haremile.core.records.library import Noun, renamed_machine, renamed_system
from haremile.core.records.profile import MachineProfile
from haremile.core.records.rigs import PERSON
from haremile.core.records.study import Install, Machine, System
from haremile.errors import ConflictError, NotFoundError
from haremile.store.database import connected, rows_of
from haremile.store.events import note_act
from haremile.store.rows import (
    AliasRow,
    DistributionRow,
    HostRow,
    InstallRow,
    MachineRow,
    SystemRow,
    database,
)

GUEST = "guest"
ALIASES = """
    select alias.noun, alias.name as before, coalesce(system.name, machine.name) as name
    from alias
    left join system on alias.noun = 'system' and system.id = alias.thing
    left join machine on alias.noun = 'machine' and machine.id = alias.thing
"""
TABLE: Mapping[Noun, Any] = {Noun.SYSTEM: SystemRow, Noun.MACHINE: MachineRow}


class PostgresLibrary:
    """Keeps what is compared and on what."""

    @connected
    def installs(self) -> list[Install]:
        """All installs by machine and name."""
        return sorted(
            (install_of(row) for row in installs_query().where(InstallRow.put_away_at.is_null())),
            key=lambda item: (item.machine.name, item.system.name, item.name),
        )

    @connected
    def note_machine(self, name: str, facts: Mapping[str, str]) -> None:
        """Note what a machine stated of itself; what is noted already stands."""
        with database.atomic():
            row = MachineRow.select().where(MachineRow.name == name).for_update().first()
            if row is not None and not set(facts) <= set(row.facts):
                row.facts = {**facts, **row.facts}
                row.save()

    @connected
    def ensure_machine(self, machine: Machine) -> None:
        """Note a machine that was not known."""
        with database.atomic():
            _machine(machine)

    @connected
    def ensure(self, install: Install) -> Install:
        """Return the install of this system, machine and name, kept if it was not known.

        A rig and its recipe that are stated replace older ones.
        """
        with database.atomic():
            known = self.aliases()
            system = _system(renamed_system(install.system, known))
            machine = _machine(renamed_machine(install.machine, known))
            row = InstallRow.kept(system=system, machine=machine, name=install.name)
            stated = (install.rig, dict(install.recipe))
            if install.rig is not None and stated != (row.rig, row.recipe):
                note_act(
                    "recipe changed",
                    None,
                    {
                        "system": system.name,
                        "machine": machine.name,
                        "rig": install.rig,
                        "was": row.recipe,
                        "is": stated[1],
                    },
                )
                row.rig, row.recipe = stated
                row.save()
            return install_of(row)

    @connected
    def make_guests(self, machines: Sequence[Machine]) -> list[UUID]:
        """Note virtual machines with their profiles, all or none. Raises ConflictError where a name
        is taken."""
        made: list[UUID] = []
        with database.atomic():
            for machine in machines:
                check_free(Noun.MACHINE, machine.name)
                row = _machine(machine)
                note_act("machine noted", None, {"machine": machine.name})
                made.append(row.id)
        return made

    @connected
    def recipe_of(self, system: UUID) -> dict[str, str]:
        """What a guest of this system boots, empty where nothing is stated. Raises
        NotFoundError."""
        row = SystemRow.get_or_none(SystemRow.id == system)
        if row is None:
            raise NotFoundError("system", system)
        return dict(row.recipe)

    @connected
    def state_recipe(self, system: UUID, recipe: Mapping[str, str]) -> None:
        """State what guests of a system boot; those that were made of it before follow."""
        with database.atomic():
            row = SystemRow.select().where(SystemRow.id == system).for_update().first()
            if row is None:
                raise NotFoundError("system", system)
            facts = {"system": row.name, "was": row.recipe, "is": dict(recipe)}
            row.recipe = dict(recipe)
            row.save()
            note_act("recipe changed", None, facts)
            for install in installs_query().where(InstallRow.system == system):
                profile = install_of(install).machine.profile
                if profile is not None:
                    install.recipe = {**row.recipe, **profile.recipe()}
                    install.save()

    @connected
    def booted_by(self, image: str) -> list[str]:
        """The systems whose guests boot an image, by name."""
        found = SystemRow.select(SystemRow.name).where(SystemRow.recipe["image"] == image)
        return [row.name for row in found.order_by(SystemRow.name)]

    @connected
    def put_by_hand(self, system: UUID, machine: UUID) -> Install:
        """The install of a system on a machine that a person operates, made where there is none.

        Raises
        ------
        NotFoundError
            If one of them is not there.
        ConflictError
            If something else operates it.
        """
        with database.atomic():
            row = SystemRow.get_or_none(SystemRow.id == system)
            place = MachineRow.get_or_none(MachineRow.id == machine)
            if row is None or place is None:
                raise NotFoundError(*("system", system) if row is None else ("machine", machine))
            kept = InstallRow.kept(system=row, machine=place, name="")
            if kept.rig not in (None, PERSON):
                raise ConflictError(f"{row.name} on {place.name} is operated already: {kept.rig}")
            kept.rig, kept.put_away_at = PERSON, None
            kept.save()
            return install_of(kept)

    @connected
    def put_on(self, system: UUID, machine: UUID) -> Install:
        """The install of a system on a virtual machine, made where there is none.

        Raises
        ------
        NotFoundError
            If one of them is not there.
        ConflictError
            If nothing says what the system boots, or the machine has no profile.
        """
        with database.atomic():
            row = SystemRow.get_or_none(SystemRow.id == system)
            place = MachineRow.get_or_none(MachineRow.id == machine)
            if row is None or place is None:
                raise NotFoundError(*("system", system) if row is None else ("machine", machine))
            if not row.recipe:
                raise ConflictError(
                    f"nothing says what a guest of {row.name} boots: choose its image"
                )
            if place.profile is None:
                raise ConflictError(f"{place.name} is no virtual machine that was made here")
            recipe = {**row.recipe, **MachineProfile(**place.profile).recipe()}
            kept = InstallRow.kept(system=row, machine=place, name="")
            kept.rig, kept.recipe, kept.put_away_at = GUEST, recipe, None
            kept.save()
            return install_of(kept)

    @connected
    def aliases(self) -> dict[tuple[Noun, str], str]:
        """The present name of everything that had another before."""
        rows = rows_of(ALIASES)
        return {(Noun(row.noun), row.before): row.name for row in rows}


def check_free(noun: Noun, name: str, but: UUID | None = None) -> None:
    """A name belongs to one; also one that something else had before."""
    if TABLE[noun].select().where(TABLE[noun].name == name).exists():
        raise ConflictError(f"there is a {noun} {name} already")
    taken = AliasRow.select().where(AliasRow.noun == noun, AliasRow.name == name)
    if any(row.thing != but for row in taken):
        raise ConflictError(f"another {noun} was called {name} before")


def installs_query() -> Any:  # peewee's queries carry no types
    """Installs with everything around them, in one query."""
    return (
        InstallRow.select(InstallRow, SystemRow, DistributionRow, MachineRow, HostRow)
        .join(SystemRow)
        .join(DistributionRow, JOIN.LEFT_OUTER)
        .switch(InstallRow)
        .join(MachineRow)
        .join(HostRow)
    )


def install_of(row: InstallRow) -> Install:
    """The record of a row."""
    system, machine = row.system, row.machine
    maker = system.distribution
    return Install(
        system=System(
            system.name,
            maker.name if maker else None,
            system.release,
            system.edition,
            system.architecture,
        ),
        machine=Machine(
            machine.name,
            machine.kind,
            machine.host.name,
            machine.facts,
            None if machine.profile is None else MachineProfile(**machine.profile),
        ),
        name=row.name,
        rig=row.rig,
        recipe=row.recipe,
        id=row.id,
        is_reference=row.is_reference,
    )


def _system(system: System) -> SystemRow:
    maker = None
    if system.distribution is not None:
        maker = DistributionRow.kept(name=system.distribution)
    stated = {
        "distribution": maker,
        "release": system.release,
        "edition": system.edition,
        "architecture": system.architecture,
    }
    row = SystemRow.kept(name=system.name, defaults=stated)
    return row


def _machine(machine: Machine) -> MachineRow:
    host = HostRow.kept(name=machine.host or machine.name)
    row = MachineRow.kept(
        name=machine.name,
        defaults={
            "host": host,
            "kind": machine.kind,
            "facts": dict(machine.facts),
            "profile": None if machine.profile is None else asdict(machine.profile),
        },
    )
    return row
