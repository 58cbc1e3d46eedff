"""Guests put to work: images, virtual machines, and the proof that a system boots."""

import base64
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated
from uuid import UUID

import anyio.from_thread
from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from haremile.api.bodies import length_of
from haremile.api.dependencies import Bench, Owner
from haremile.api.ports import BenchParts
from haremile.api.routers.intake import Named, Under
from haremile.api.schemas.guests import (
    ImageIn,
    LadderIn,
    LadderOut,
    PathIn,
    PlaceIn,
    ProofOut,
)
from haremile.api.schemas.studies import InstallOut
from haremile.core.records.profile import MachineProfile
from haremile.usecases.guests import Proof, delete_image, image_recipe, ladder
from haremile.usecases.ports import ImageHere

router = APIRouter(tags=["guests"])


@router.get("/images")
def list_images(bench: Bench) -> list[ImageHere]:
    """Images on this host from which guests can be made."""
    return bench.images_here.here()


@router.post("/images/upload", status_code=201)
async def upload_image(
    request: Request, name: Annotated[str, Query(max_length=200)], bench: Bench
) -> ImageHere:
    """Keep an image; its bytes are the body."""
    size = length_of(request.headers) or 0
    stream = request.stream()

    def parts() -> Iterator[bytes]:
        while True:
            try:
                yield anyio.from_thread.run(stream.__anext__)
            except StopAsyncIteration:
                return

    return await run_in_threadpool(bench.images_here.take, name, size, parts())


@router.post("/images/copy", status_code=201)
def copy_image(
    asked: PathIn, bench: Bench, _: Owner, intakes: Under, progress: Named = None
) -> ImageHere:
    """Keep a copy of a file of this host."""
    told = intakes.told(progress)
    return bench.images_here.copy(Path(asked.path), lambda done, of: told("copied", done, of))


@router.delete("/images/{name}", status_code=204)
def delete_own_image(name: str, bench: Bench, _: Owner) -> None:
    """Delete a tester's own image from this host, if no guest boots it."""
    delete_image(bench.images_here, bench.library, name)


@router.post("/machines/ladder", status_code=201)
def make_ladder(asked: LadderIn, bench: Bench) -> LadderOut:
    """Virtual machines on this host that differ in their memory alone."""
    base = MachineProfile(
        asked.cores, max(asked.memories), asked.bus, asked.firmware, asked.disk_mib
    )
    machines = ladder(asked.name, bench.host, asked.memories, base)
    return LadderOut(ids=bench.library.make_guests(machines))


@router.get("/systems/{key}/image")
def get_image(key: UUID, bench: Bench) -> dict[str, str]:
    """What guests of a system boot; empty where nothing is stated."""
    return bench.library.recipe_of(key)


@router.put("/systems/{key}/image", status_code=204)
def state_image(key: UUID, asked: ImageIn, bench: Bench) -> None:
    """State what guests of a system boot, and how it is told that they are ready."""
    recipe = image_recipe(asked.image, asked.ready, asked.quiet_s, asked.limit_s)
    bench.images_here.check(recipe)
    bench.library.state_recipe(key, recipe)


@router.post("/installs", status_code=201)
def put_on(asked: PlaceIn, bench: Bench) -> InstallOut:
    """A system on a virtual machine: the install of its image there."""
    return InstallOut.model_validate(bench.library.put_on(asked.system, asked.machine))


@router.post("/proofs", status_code=202)
def start_proof(asked: PlaceIn, bench: Bench) -> ProofOut:
    """Boot a system once; it counts for nothing, and is seen live."""
    install = bench.library.put_on(asked.system, asked.machine)
    return _proof(bench, bench.proofs.start(install))


@router.get("/proofs/{key}")
def get_proof(key: UUID, bench: Bench) -> ProofOut:
    """How far it is, and what is seen of it."""
    return _proof(bench, bench.proofs.get(key))


@router.delete("/proofs/{key}", status_code=204)
def end_proof(key: UUID, bench: Bench) -> None:
    """End the boot at once."""
    bench.proofs.end(key)


def _proof(bench: BenchParts, proof: Proof) -> ProofOut:
    seen = bench.proofs.view(proof.id)
    picture = None if seen.picture is None else base64.b64encode(seen.picture).decode()
    return ProofOut(**vars(proof), lines=list(seen.lines), picture=picture)
