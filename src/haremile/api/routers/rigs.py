"""Machines that work by themselves: keys, and what an enrolled machine asks and brings."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Path, Request
from starlette.concurrency import run_in_threadpool

from haremile.api.dependencies import Bench, Owner, heard_at
from haremile.api.ports import BenchParts
from haremile.api.schemas.rigs import (
    EnrolAsked,
    Enrolled,
    InstructionOut,
    JobOut,
    KeyOut,
    SignIn,
    SwitchingIn,
    Taken,
)
from haremile.formats.probe_archive import enrol_line
from haremile.usecases.drafts import chosen_installs
from haremile.usecases.enrolled import Sign, switched
from haremile.usecases.ports import MachineKey, MachineSign

router = APIRouter(tags=["rigs"])


def machine_of(request: Request) -> str:
    """The machine that signed the request, as the guard recognised it."""
    found: str = request.state.machine
    return found


MachineName = Annotated[str, Depends(machine_of)]
Name = Annotated[str, Path(min_length=1, max_length=200)]


@router.get("/rigs/machines")
def list_signs(bench: Bench) -> list[MachineSign]:
    """The last sign of every enrolled machine."""
    return bench.machines.signs()


@router.post("/machines/{name}/keys", status_code=201)
def make_key(name: Name, bench: Bench, _: Owner) -> KeyOut:
    """A fresh key of a machine; it is shown this once."""
    return KeyOut(machine=name, key=bench.machines.new_key(name), line=_line(bench))


def _line(bench: BenchParts) -> str | None:
    """What is pasted on the machine; None where this server is heard on its own host only."""
    found = heard_at(bench)
    return None if found is None else enrol_line(*found).strip()


@router.get("/machines/{name}/keys")
def list_keys(name: Name, bench: Bench, _: Owner) -> list[MachineKey]:
    """All keys of a machine that were ever made, the newest first; the keys themselves are kept
    nowhere."""
    return bench.machines.keys(name)


@router.put("/installs/{key}/switching", status_code=204)
def state_switching(key: UUID, asked: SwitchingIn, bench: Bench, _: Owner) -> None:
    """State how an enrolled machine comes into this install."""
    (install,) = chosen_installs(bench.library, [key])
    bench.library.ensure(switched(install, asked.way, asked.entry))


@router.delete("/machines/{name}/keys", status_code=204)
def revoke_keys(name: Name, bench: Bench, _: Owner) -> None:
    """Make all keys of a machine worthless."""
    bench.machines.revoke_keys(name)


@router.post("/rigs/enrol")
def enrol(asked: EnrolAsked, bench: Bench, machine: MachineName) -> Enrolled:
    """Keep an install that the machine works in."""
    install = bench.machines.enrol(machine, asked.system, asked.identity)
    return Enrolled(machine=machine, system=install.system.name)


@router.post("/rigs/step")
def next_instruction(asked: SignIn, bench: Bench, machine: MachineName) -> InstructionOut:
    """What the machine is to do next; asking is its sign of life."""
    sign = Sign(asked.identity, asked.boot_id, asked.busy, asked.is_leaving)
    instruction = bench.enrolled.instruct(machine, sign)
    job = instruction.job
    return InstructionOut(
        do=instruction.do,
        job=instruction.asked and JobOut.model_validate(instruction.asked),
        entry=instruction.entry,
        says=instruction.says,
        seconds=instruction.seconds,
        run=job.run_id if job else None,
        attempt=job.attempt if job else None,
        procedure=job.procedure if job else None,
    )


@router.post("/rigs/captures")
async def take_capture(request: Request, bench: Bench, machine: MachineName) -> Taken:
    """Take a capture that the machine hands in; the same again changes nothing."""
    body = await request.body()
    became = await run_in_threadpool(bench.enrolled.take, machine, body)
    return Taken(became=became)
