"""Machines that work by themselves: keys, and what an enrolled machine asks and brings."""

from typing import Annotated

from fastapi import APIRouter, Depends, Path, Request
from starlette.concurrency import run_in_threadpool

from haremile.api.dependencies import Bench, Owner
from haremile.api.schemas import (
    EnrolAsked,
    Enrolled,
    JobOut,
    KeyOut,
    MachineSignOut,
    SignIn,
    StepOut,
    Taken,
)
from haremile.usecases.enrolled import Sign

router = APIRouter(tags=["rigs"])


def machine_of(request: Request) -> str:
    """The machine that signed the request, as the guard recognised it."""
    found: str = request.state.machine
    return found


MachineName = Annotated[str, Depends(machine_of)]
Name = Annotated[str, Path(min_length=1, max_length=200)]


@router.get("/rigs/machines")
def list_signs(bench: Bench) -> list[MachineSignOut]:
    """The last sign of every enrolled machine."""
    return [MachineSignOut.model_validate(sign) for sign in bench.machines.signs()]


@router.post("/machines/{name}/keys", status_code=201)
def make_key(name: Name, bench: Bench, _: Owner) -> KeyOut:
    """A fresh key of a machine; it is shown this once."""
    return KeyOut(machine=name, key=bench.machines.new_key(name))


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
def next_step(asked: SignIn, bench: Bench, machine: MachineName) -> StepOut:
    """What the machine is to do next; asking is its sign of life."""
    sign = Sign(asked.identity, asked.boot_id, asked.busy, asked.is_leaving)
    step = bench.enrolled.step(machine, sign)
    errand = step.errand
    return StepOut(
        do=step.do, job=step.job and JobOut.model_validate(step.job), entry=step.entry,
        says=step.says, seconds=step.seconds,
        run=errand.run_id if errand else None, attempt=errand.attempt if errand else None,
        procedure=errand.procedure if errand else None,
    )  # fmt: skip


@router.post("/rigs/captures")
async def take_capture(request: Request, bench: Bench, machine: MachineName) -> Taken:
    """Take a capture that the machine hands in; the same again changes nothing."""
    body = await request.body()
    became = await run_in_threadpool(bench.enrolled.take, machine, body)
    return Taken(became=became)
