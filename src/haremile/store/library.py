"""Systems, machines and installs."""

from collections.abc import Mapping
from typing import Any

from peewee import JOIN

from haremile.core.records.library import Noun, renamed_machine, renamed_system
from haremile.core.records.study import Install, Machine, System
from haremile.store.database import connected, rows_of
from haremile.store.events import note_act
from haremile.store.rows import (
    DistributionRow,
    HostRow,
    InstallRow,
    MachineRow,
    SystemRow,
    database,
)

ALIASES = """
    select alias.noun, alias.name as before, coalesce(system.name, machine.name) as name
    from alias
    left join system on alias.noun = 'system' and system.id = alias.thing
    left join machine on alias.noun = 'machine' and machine.id = alias.thing
"""


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
    def aliases(self) -> dict[tuple[Noun, str], str]:
        """The present name of everything that had another before."""
        rows = rows_of(ALIASES)
        return {(Noun(row.noun), row.before): row.name for row in rows}


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
        machine=Machine(machine.name, machine.kind, machine.host.name, machine.facts),
        name=row.name,
        rig=row.rig,
        recipe=row.recipe,
        id=row.id,
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
        defaults={"host": host, "kind": machine.kind, "facts": dict(machine.facts)},
    )
    return row
