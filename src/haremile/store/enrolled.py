"""Enrolled machines: keys, signs, jobs."""

import hashlib
from collections.abc import Mapping
from uuid import UUID

from peewee import fn

from haremile.core.records.rigs import ENROLLED
from haremile.core.records.study import Install, Machine, RunState, System
from haremile.errors import ConflictError, NotFoundError
from haremile.store.captures import keep_capture
from haremile.store.database import connected
from haremile.store.events import note_act
from haremile.store.library import PostgresLibrary, install_of
from haremile.store.rows import (
    AttemptRow,
    CaptureRow,
    InstallRow,
    MachineJobRow,
    MachineKeyRow,
    MachineRow,
    MachineSignRow,
    RunRow,
    TombstoneRow,
    database,
    now,
)
from haremile.usecases.access import fresh_secret
from haremile.usecases.ports import MachineJob, MachineKey, MachineSign, RunOrder
from haremile_probe.signing import name_of, secret_of
from haremile_probe.wire import CAPTURE_FORMAT, Capture

ASKED, ANSWERED = "asked", "answered"


class PostgresMachineQueue:
    """Keeps what is between the server and its enrolled machines."""

    def __init__(self, library: PostgresLibrary):
        self._library = library

    @connected
    def new_key(self, machine: str) -> str:
        """A fresh key of a machine; only its digest is kept."""
        row = MachineRow.get_or_none(MachineRow.name == machine)
        if row is None:
            raise NotFoundError("machine", machine)
        key = fresh_secret()
        secret = secret_of(key)
        MachineKeyRow.create(machine=row, digest=secret, name=name_of(secret))
        note_act("machine key made", None, {"machine": machine})
        return key

    @connected
    def keys(self, machine: str) -> list[MachineKey]:
        """All keys of a machine that were ever made, the newest first."""
        rows = (
            MachineKeyRow.select()
            .join(MachineRow)
            .where(MachineRow.name == machine)
            .order_by(MachineKeyRow.made_at.desc())
        )
        return [MachineKey(row.name, row.made_at, row.revoked_at) for row in rows]

    @connected
    def revoke_keys(self, machine: str) -> int:
        """Make all keys of a machine worthless."""
        row = MachineRow.get_or_none(MachineRow.name == machine)
        if row is None:
            raise NotFoundError("machine", machine)
        note_act("machine keys revoked", None, {"machine": machine})
        return int(
            MachineKeyRow.update(revoked_at=now())
            .where(MachineKeyRow.machine == row, MachineKeyRow.revoked_at.is_null())
            .execute()
        )

    @connected
    def key_named(self, name: str) -> tuple[str, str, bool] | None:
        """The secret of a key, its machine, and whether it was revoked; None for no key."""
        found = (
            MachineKeyRow.select(MachineKeyRow, MachineRow)
            .join(MachineRow)
            .where(MachineKeyRow.name == name)
            .first()
        )
        if found is None:
            return None
        return found.digest, found.machine.name, found.revoked_at is not None

    @connected
    def enrol(self, machine: str, system: str, identity: UUID) -> Install:
        """Keep an install that a machine works in; its recipe stands where it has one."""
        with database.atomic():
            known = InstallRow.get_or_none(InstallRow.identity == identity)
            if known is not None and known.machine.name != machine:
                raise ConflictError(f"this install is enrolled as one of {known.machine.name}")
            if known is not None:
                return install_of(known)
            kept = self._library.ensure(Install(System(system), Machine(machine)))
            row = InstallRow.select().where(InstallRow.id == kept.id).for_update().get()
            if row.identity is not None:
                raise ConflictError(
                    f"{system} on {machine} is enrolled already, as another install; "
                    "give this one a name of its own with --system"
                )
            row.rig, row.identity = ENROLLED, identity
            row.save()
            return install_of(row)

    @connected
    def note_sign(self, machine: str, identity: UUID, boot_id: str, is_leaving: bool) -> None:
        """Keep the last sign of a machine. Raises NotFoundError for an unknown install."""
        install = InstallRow.get_or_none(InstallRow.identity == identity)
        if install is None or install.machine.name != machine:
            raise NotFoundError("install of this machine with the identity", identity)
        facts = {
            "install": install,
            "boot_id": boot_id,
            "is_leaving": is_leaving,
            "seen_at": fn.now(),
        }
        (
            MachineSignRow.insert(machine=install.machine, **facts)
            .on_conflict(
                conflict_target=[MachineSignRow.machine],
                update={getattr(MachineSignRow, name): value for name, value in facts.items()},
            )
            .execute()
        )

    @connected
    def signs(self) -> list[MachineSign]:
        """The last sign of every enrolled machine, by name."""
        query = MachineSignRow.select(MachineSignRow, MachineRow).join(MachineRow)
        return [
            MachineSign(
                row.machine.name,
                row.seen_at,
                row.boot_id,
                row.is_leaving,
                row.install.system.name if row.install else None,
            )
            for row in query.order_by(MachineRow.name)
        ]

    @connected
    def put(self, order: RunOrder) -> MachineJob:
        """Ask a machine for a run; the same attempt again is the same job."""
        with database.atomic():
            known = _of_attempt(order.run_id, order.attempt)
            if known is None:
                install = InstallRow.get_by_id(order.install.id)
                known = MachineJobRow.create(
                    machine=install.machine_id,
                    install=install,
                    run=order.run_id,
                    attempt_no=order.attempt,
                    procedure=order.procedure,
                    conditions=dict(order.conditions),
                    stage=ASKED,
                )
            return _job(known)

    @connected
    def job(self, run_id: UUID, attempt: int) -> MachineJob | None:
        """What was asked for this attempt."""
        row = _of_attempt(run_id, attempt)
        return _job(row) if row else None

    @connected
    def next_job(self, machine: str) -> MachineJob | None:
        """The oldest that is still to be answered."""
        row = (
            MachineJobRow.select(MachineJobRow)
            .join(MachineRow)
            .where(MachineRow.name == machine, MachineJobRow.stage == ASKED)
            .order_by(MachineJobRow.made_at)
            .first()
        )
        return _job(row) if row else None

    @connected
    def waiting(self, rig: str) -> list[MachineJob]:
        """What waits for an answer of machines that such a rig operates, the oldest first."""
        rows = (
            MachineJobRow.select(MachineJobRow)
            .join(InstallRow)
            .switch(MachineJobRow)
            .join(RunRow)
            .where(
                InstallRow.rig == rig,
                MachineJobRow.stage == ASKED,
                MachineJobRow.attempt_no == RunRow.attempt_no,
                RunRow.state.in_([RunState.LEASED, RunState.RUNNING]),
            )
            .order_by(MachineJobRow.made_at)
        )
        return [_job(row) for row in rows]

    @connected
    def stamp(self, job_id: UUID, stamps: Mapping[str, float | str]) -> None:
        """Add stamps; those that stand stay, but for the last sign, which moves on."""
        with database.atomic():
            row = MachineJobRow.select().where(MachineJobRow.id == job_id).for_update().get()
            moving = {key: value for key, value in stamps.items() if key == "last_sign"}
            row.stamps = {**stamps, **row.stamps, **moving}
            row.save()

    @connected
    def was_deleted(self, run_id: UUID) -> bool:
        """Whether this run was there, and was deleted for good with its study."""
        return TombstoneRow.select().where(TombstoneRow.id == run_id).exists()

    @connected
    def answer(self, job_id: UUID, body: bytes) -> None:
        """Keep what the machine brought, for whoever waits for it."""
        with database.atomic():
            row = MachineJobRow.select().where(MachineJobRow.id == job_id).for_update().get()
            if row.stage == ASKED:
                row.stage, row.body = ANSWERED, body
                row.stamps = {**row.stamps, "answer": hashlib.sha256(body).hexdigest()}
                row.save()

    @connected
    def keep_late(self, run_id: UUID, attempt: int, capture: Capture, body: bytes) -> bool:
        """Keep a capture that came too late as evidence; False if it was known."""
        row = AttemptRow.get_or_none(AttemptRow.run == run_id, AttemptRow.number == attempt)
        if row is None:
            raise NotFoundError("attempt", f"{attempt} at run {run_id}")
        with database.atomic():
            is_known = CaptureRow.get_or_none(CaptureRow.id == UUID(capture.id)) is not None
            kept = keep_capture(UUID(capture.id), body, CAPTURE_FORMAT, capture.made_at)
            if row.capture_id is None:
                AttemptRow.update(capture=kept, reason="came too late").where(
                    AttemptRow.id == row.id
                ).execute()
        return not is_known


def _of_attempt(run_id: UUID, attempt: int) -> MachineJobRow | None:
    return MachineJobRow.get_or_none(
        MachineJobRow.run == run_id, MachineJobRow.attempt_no == attempt
    )


def _job(row: MachineJobRow) -> MachineJob:
    body = None if row.body is None else bytes(row.body)
    return MachineJob(
        row.id,
        row.run.study_id,
        row.run_id,
        row.attempt_no,
        install_of(row.install),
        row.install.identity,
        row.procedure,
        row.conditions,
        row.stage,
        row.stamps,
        body,
    )
