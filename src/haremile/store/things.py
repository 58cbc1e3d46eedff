"""Systems and machines in the library: what is stated of them, and what they were called before."""

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any
from uuid import UUID

from haremile.core.records.install_history import state_changes
from haremile.core.records.library import CLAIM_KEYS, FACTS, Claim, Fact, Noun, Source, Thing
from haremile.core.records.study import JOINED_AFTER, install_name
from haremile.core.records.units import to_canonical
from haremile.errors import BadInputError, NotFoundError
from haremile.store.database import connected, rows_of
from haremile.store.events import note_act
from haremile.store.library import TABLE, check_free, install_of, installs_query
from haremile.store.rows import (
    AliasRow,
    ClaimRow,
    ContenderRow,
    DistributionRow,
    FactRow,
    HostRow,
    InstallRow,
    database,
    now,
)
from haremile.usecases.access import acting
from haremile.usecases.ports import InstallHistory, PastStudy

SYSTEMS = """
    select system.id, system.name, system.put_away_at, distribution.name as distribution,
        system.release, system.edition, system.architecture, system.recipe,
        count(distinct install.id) as installs, count(distinct contender.study_id) as studies
    from system
    left join distribution on distribution.id = system.distribution_id
    left join install on install.system_id = system.id
    left join contender on contender.install_id = install.id
    where %s::uuid is null or system.id = %s
    group by system.id, distribution.name order by system.name
"""
MACHINES = """
    select machine.id, machine.name, machine.put_away_at, machine.kind, machine.facts,
        machine.profile,
        count(distinct install.id) as installs, count(distinct contender.study_id) as studies
    from machine
    left join install on install.machine_id = machine.id
    left join contender on contender.install_id = install.id
    where %s::uuid is null or machine.id = %s
    group by machine.id order by machine.name
"""
FOUND = """
    select distinct on (lane.condition_hash) lane.conditions, attempt.id as attempt
    from attempt
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join reading on reading.attempt_id = attempt.id
    join lane on lane.id = reading.lane_id
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    where install.system_id = %s and run.state = 'done'
    order by lane.condition_hash, attempt.id desc
"""
AS_FOUND = ("kernel", "session", "init", "updates_pending", "autologin", "medium")
"""Conditions of its runs that tell something of a system."""

MEASURED = """
    select machine.name as machine, reading.method, lane.conditions->>'medium' as medium,
        array_agg(reading.value order by run.position) as values
    from reading
    join lane on lane.id = reading.lane_id
    join attempt on attempt.id = reading.attempt_id
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join study on study.id = run.study_id
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where install.system_id = %s and reading.metric = %s and run.state = 'done'
        and reading.set_aside is null and reading.method <> 'quoted'
        and study.put_away_at is null
    group by machine.name, reading.method, lane.conditions->>'medium'
    order by machine.name, reading.method, medium
"""
OVER_TIME = """
    select study.id as study, study.title, reading.metric, reading.method,
        coalesce(lane.conditions->>'medium', '') as medium,
        {other}.name as other,
        coalesce(min(attempt.finished_at), study.created_at) as at,
        array_agg(reading.value order by run.position) as values
    from reading
    join lane on lane.id = reading.lane_id
    join attempt on attempt.id = reading.attempt_id
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join study on study.id = run.study_id
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join system on system.id = install.system_id
    join machine on machine.id = install.machine_id
    where install.{noun}_id = %s and reading.metric = any(%s) and run.state = 'done'
        and reading.set_aside is null and reading.method <> 'quoted'
        and study.put_away_at is null and lane.conditions->>'app' is null
    group by study.id, reading.metric, reading.method, lane.conditions->>'medium', {other}.name
    order by at, study.id
"""
"""Of a system by machine, or of a machine by system; both words are our own."""

STUDIES_OF = """
    select distinct study.id, study.title, study.created_at from study
    join contender on contender.study_id = study.id
    join install on install.id = contender.install_id
    where (install.system_id = %s or install.machine_id = %s) and study.put_away_at is null
    order by study.created_at desc
"""
STATES = """
    select contender.install_id as install, attempt.conditions,
        coalesce(attempt.finished_at, attempt.started_at) as at,
        (
            select max(reading.value) from reading
            where reading.attempt_id = attempt.id and reading.metric = 'package.count'
        ) as packages
    from contender
    join run on run.contender_id = contender.id and run.state = 'done'
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    where contender.install_id = any(%s)
    order by at nulls first, attempt.id
"""
IDENTITY = ("distribution", "release", "edition", "architecture")


class PostgresThings:
    """Keeps what is known of systems and machines; every change is told with what was before."""

    @connected
    def all(self, noun: Noun) -> list[Thing]:
        """All of them by name, with the newest of what is stated."""
        stated: dict[UUID, list[Fact]] = {}
        rows = FactRow.select().where(FactRow.noun == noun).order_by(FactRow.at.desc())
        for row in rows:
            stated.setdefault(row.thing, []).append(_fact(row))
        aliases: dict[UUID, list[str]] = {}
        for alias in AliasRow.select().where(AliasRow.noun == noun).order_by(AliasRow.name):
            aliases.setdefault(alias.thing, []).append(alias.name)
        return [
            _thing(
                noun,
                row,
                stated.get(row.id, []),
                aliases.get(row.id, []),
                row.facts if noun is Noun.MACHINE else None,
            )
            for row in rows_of(_query(noun), None, None)
        ]

    @connected
    def get(self, noun: Noun, key: UUID) -> Thing:
        """One of them, with everything that was ever stated. Raises NotFoundError."""
        found = rows_of(_query(noun), key, key)
        if not found:
            raise NotFoundError(noun, key)
        facts = FactRow.select().where(FactRow.thing == key).order_by(FactRow.at.desc())
        aliases = AliasRow.select().where(AliasRow.thing == key).order_by(AliasRow.name)
        seen: dict[str, str] = {}
        if noun is Noun.SYSTEM:
            for row in sorted(rows_of(FOUND, key), key=lambda one: one.attempt):
                seen.update({k: v for k, v in row.conditions.items() if k in AS_FOUND})
        else:
            seen = dict(found[0].facts)
        return _thing(
            noun, found[0], [_fact(row) for row in facts], [one.name for one in aliases], seen
        )

    @connected
    def studies_of(self, key: UUID) -> list[tuple[UUID, str]]:
        """Id and title of the studies that it takes part in, the newest first."""
        return [(row.id, row.title) for row in rows_of(STUDIES_OF, key, key)]

    @connected
    def installs_of(self, key: UUID) -> list[InstallHistory]:
        """The installs of a system, or on a machine, each with its history."""
        of_it = (InstallRow.system == key) | (InstallRow.machine == key)
        rows = list(installs_query().where(of_it))
        stated: dict[UUID, list[tuple[Any, Mapping[str, str]]]] = {row.id: [] for row in rows}
        for one in rows_of(STATES, list(stated)):
            packages = {} if one.packages is None else {"packages": f"{one.packages:g}"}
            stated[one.install].append((one.at, {**one.conditions, **packages}))
        found = [
            InstallHistory(
                install_of(row),
                state_changes(stated[row.id]),
                len(stated[row.id]),
                row.put_away_at is not None,
                row.added,
            )
            for row in rows
        ]
        return sorted(found, key=lambda one: (one.install.system.name, one.install.machine.name))

    @connected
    def over_time(self, noun: Noun, key: UUID, metrics: Sequence[str]) -> list[PastStudy]:
        """What each study read of these metrics, in order of time."""
        other = "machine" if noun is Noun.SYSTEM else "system"
        query = OVER_TIME.format(noun=noun, other=other)
        return [
            PastStudy(
                row.study,
                row.title,
                row.at,
                row.metric,
                row.method,
                row.medium,
                row.other,
                row.values,
            )
            for row in rows_of(query, key, list(metrics))
        ]

    @connected
    def make_reference(self, install: UUID, is_one: bool) -> None:
        """Offer an install to every plan on its machine, or no more. Raises NotFoundError."""
        with database.atomic():
            row = _kept_install(install)
            if row.is_reference == is_one:
                return
            row.is_reference = is_one
            row.save()
            what = "reference chosen" if is_one else "reference given up"
            note_act(what, None, {"system": row.system.name, "machine": row.machine.name})

    @connected
    def note_added(self, install: UUID, text: str) -> None:
        """State what was added to an install since installing it; what stood there before is in
        the history. Raises NotFoundError."""
        with database.atomic():
            row = _kept_install(install)
            if row.added == text:
                return
            facts = {"system": row.system.name, "machine": row.machine.name}
            note_act("added noted", None, {**facts, "was": row.added, "is": text})
            row.added = text
            row.save()

    @connected
    def put_install_away(self, install: UUID, is_away: bool) -> None:
        """Out of every plan, or back; its readings stay. Raises NotFoundError."""
        with database.atomic():
            row = _kept_install(install)
            if is_away == (row.put_away_at is not None):
                return
            row.put_away_at = now() if is_away else None
            row.save()
            what = "install put away" if is_away else "install brought back"
            note_act(what, None, {"system": row.system.name, "machine": row.machine.name})

    @connected
    def add(self, noun: Noun, name: str, identity: Mapping[str, str | None]) -> UUID:
        """Note a system or machine by its name. Raises ConflictError where the name is taken."""
        with database.atomic():
            check_free(noun, name)
            if noun is Noun.SYSTEM:
                fields = _system_fields(identity)
            else:
                kind = identity.get("kind") or "physical"
                fields = {"host": HostRow.kept(name=name), "kind": kind}
            key: UUID = TABLE[noun].create(name=name, **fields).id
            note_act(f"{noun} noted", None, {noun: name})
        return key

    @connected
    def rename(self, noun: Noun, key: UUID, name: str) -> None:
        """Call it by another name everywhere; files that bear the old one are still understood."""
        with database.atomic():
            row = _row(noun, key)
            before = row.name
            if before == name:
                return
            check_free(noun, name, but=key)
            AliasRow.delete().where(AliasRow.noun == noun, AliasRow.name == name).execute()
            row.name = name
            row.save()
            AliasRow.create(noun=noun, name=before, thing=key)
            self._relabel(noun, key, before)
            note_act(f"{noun} renamed", None, {noun: name, "was": before})

    @staticmethod
    def _relabel(noun: Noun, key: UUID, before: str) -> None:
        """Labels of contenders are made of names: those of this one are made anew."""
        of_it = InstallRow.system == key if noun is Noun.SYSTEM else InstallRow.machine == key
        for install in installs_query().where(of_it):
            made = install_of(install)
            machine = before if noun is Noun.MACHINE else made.machine.name
            for lane in ContenderRow.select().where(ContenderRow.install == install.id):
                base = lane.label.removesuffix(f" {JOINED_AFTER}")
                is_placed = base.endswith(f" on {machine}")
                label = install_name(made) + (f" on {made.machine.name}" if is_placed else "")
                late = f" {JOINED_AFTER}" if base != lane.label else ""
                ContenderRow.update(label=label + late).where(ContenderRow.id == lane.id).execute()

    @connected
    def change(self, noun: Noun, key: UUID, identity: Mapping[str, str | None]) -> None:
        """State what tells it from others; what is not named stays."""
        with database.atomic():
            row = _row(noun, key)
            fields = _system_fields(identity) if noun is Noun.SYSTEM else dict(identity)
            was = {name: _plain(getattr(row, name)) for name in fields}
            TABLE[noun].update(**fields).where(TABLE[noun].id == key).execute()
            changed = {name: str(identity[name] or "") for name in identity}
            note_act(f"{noun} changed", None, {noun: row.name, "was": was, "is": changed})

    @connected
    def put_away(self, noun: Noun, key: UUID, is_away: bool) -> None:
        """Out of every list, or back; its readings stay where they are."""
        with database.atomic():
            row = _row(noun, key)
            if is_away == (row.put_away_at is not None):
                return
            row.put_away_at = now() if is_away else None
            row.save()
            what = f"{noun} put away" if is_away else f"{noun} brought back"
            note_act(what, None, {noun: row.name})

    @connected
    def state(self, noun: Noun, key: UUID, fact: str, value: str | None, source: Source) -> None:
        """State a fact anew, or take it out; what was stated before stays in its history."""
        if all(fact != one.key for one in FACTS[noun]):
            raise BadInputError(f"nothing is stated of a {noun} under {fact}")
        with database.atomic():
            row = _row(noun, key)
            who = acting.get()
            FactRow.create(
                noun=noun,
                thing=key,
                key=fact,
                value=value,
                source=source.text,
                source_on=source.on,
                who=who.name if who else None,
            )
            note_act("fact stated", None, {noun: row.name, "key": fact, "is": value or ""})

    @connected
    def claims(self, system: UUID) -> list[Claim]:
        """What is claimed of a system, what was taken out at the end."""
        rows = ClaimRow.select().where(ClaimRow.system == system).order_by(ClaimRow.at)
        found = [_claim(row) for row in rows]
        return sorted(found, key=lambda one: (one.is_put_away, list(CLAIM_KEYS).index(one.key)))

    @connected
    def claim(
        self, system: UUID, key: str, value: float, unit: str, is_own_guess: bool, source: Source
    ) -> None:
        """Note a claim; `value` in its unit as written.

        Raises
        ------
        BadInputError
            If nothing is claimed under that key, or not in that unit.
        """
        known = CLAIM_KEYS.get(key)
        if known is None:
            raise BadInputError(f"no claim {key}; there are {', '.join(CLAIM_KEYS)}")
        amount, canonical = to_canonical(value, unit)
        if canonical != known.unit:
            raise BadInputError(f"{known.label} is in {known.unit}, not in {unit}")
        with database.atomic():
            row = _row(Noun.SYSTEM, system)
            ClaimRow.create(
                system=system,
                key=key,
                amount=amount,
                is_own_guess=is_own_guess,
                source=source.text,
                source_on=source.on,
            )
            note_act("claim noted", None, {"system": row.name, "key": key, "is": f"{value} {unit}"})

    @connected
    def put_claim_away(self, system: UUID, claim: UUID, is_away: bool) -> None:
        """Take a claim out, or bring it back."""
        with database.atomic():
            row = _row(Noun.SYSTEM, system)
            changed = (
                ClaimRow.update(put_away_at=now() if is_away else None)
                .where(ClaimRow.id == claim, ClaimRow.system == system)
                .execute()
            )
            if not changed:
                raise NotFoundError("claim", claim)
            what = "claim taken out" if is_away else "claim brought back"
            note_act(what, None, {"system": row.name})

    @connected
    def measured(self, system: UUID, metric: str) -> list[tuple[str, str, str, list[float]]]:
        """Readings of a system that count, by machine, method and medium."""
        return [
            (row.machine, row.method, row.medium or "", list(row.values))
            for row in rows_of(MEASURED, system, metric)
        ]


def _query(noun: Noun) -> str:
    return SYSTEMS if noun is Noun.SYSTEM else MACHINES


def _row(noun: Noun, key: UUID) -> Any:
    row = TABLE[noun].select().where(TABLE[noun].id == key).for_update().first()
    if row is None:
        raise NotFoundError(noun, key)
    return row


def _system_fields(identity: Mapping[str, str | None]) -> dict[str, Any]:
    fields: dict[str, Any] = {key: identity[key] for key in IDENTITY[1:] if key in identity}
    if "distribution" in identity:
        name = identity["distribution"]
        fields["distribution"] = DistributionRow.kept(name=name) if name else None
    return fields


def _plain(value: Any) -> str:
    return str(getattr(value, "name", value) or "")


def _thing(
    noun: Noun,
    row: Any,
    facts: list[Fact],
    aliases: list[str],
    found: Mapping[str, str] | None = None,
) -> Thing:
    names = IDENTITY if noun is Noun.SYSTEM else ("kind",)
    return Thing(
        id=row.id,
        noun=noun,
        name=row.name,
        identity={name: getattr(row, name) for name in names},
        is_put_away=row.put_away_at is not None,
        facts=facts,
        found=found or {},
        aliases=aliases,
        installs=row.installs,
        studies=row.studies,
        makes_guests=bool(row.recipe if noun is Noun.SYSTEM else row.profile),
    )


def _fact(row: FactRow) -> Fact:
    on: date | None = row.source_on
    return Fact(row.key, row.value, Source(row.source, on), row.at, row.who)


def _claim(row: ClaimRow) -> Claim:
    return Claim(
        row.id,
        row.key,
        row.amount,
        row.is_own_guess,
        Source(row.source, row.source_on),
        row.put_away_at is not None,
    )


def _kept_install(install: UUID) -> Any:
    row = installs_query().where(InstallRow.id == install).first()
    if row is None:
        raise NotFoundError("install", install)
    return row
