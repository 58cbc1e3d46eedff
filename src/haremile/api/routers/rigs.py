"""Machines that work by themselves: keys, and what an enrolled machine asks and brings."""

from typing import Annotated

from fastapi import APIRouter, Depends, Header, Request
from starlette.concurrency import run_in_threadpool

from haremile.api.dependencies import Bench
from haremile.api.schemas import (
    EnrolAsked,
    Enrolled,
    KeyOut,
    MachineSignOut,
    SignIn,
    StepOut,
    Taken,
)
from haremile.bench.enrolled import Sign
from haremile.errors import NotAllowedError

router = APIRouter(tags=["rigs"])

Authorization = Annotated[str | None, Header()]


def machine_of(bench: Bench, authorization: Authorization = None) -> str:
    """The machine whose key the request carries."""
    kind, _, key = (authorization or "").partition(" ")
    if kind.lower() != "bearer" or not key.strip():
        raise NotAllowedError("a machine speaks here with its key")
    return bench.machines.machine_of(key.strip())


MachineName = Annotated[str, Depends(machine_of)]


@router.get("/rigs/machines")
def list_signs(bench: Bench) -> list[MachineSignOut]:
    """The last sign of every enrolled machine."""
    return [MachineSignOut.model_validate(sign) for sign in bench.machines.signs()]


@router.post("/machines/{name}/keys", status_code=201)
def make_key(name: str, bench: Bench) -> KeyOut:
    """A fresh key of a machine; it is shown this once."""
    return KeyOut(machine=name, key=bench.machines.new_key(name))


@router.delete("/machines/{name}/keys", status_code=204)
def revoke_keys(name: str, bench: Bench) -> None:
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
        do=step.do, words=list(step.words), entry=step.entry, says=step.says, seconds=step.seconds,
        run=errand.run_id if errand else None, attempt=errand.attempt if errand else None,
        procedure=errand.procedure if errand else None,
    )  # fmt: skip


@router.post("/rigs/captures")
async def take_capture(request: Request, bench: Bench, machine: MachineName) -> Taken:
    """Take a capture that the machine hands in; the same again changes nothing."""
    body = await request.body()
    became = await run_in_threadpool(bench.enrolled.take, machine, body)
    return Taken(became=became)
