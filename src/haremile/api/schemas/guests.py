"""Guests put to work: images, virtual machines, proofs."""

from typing import Annotated
from uuid import UUID

from pydantic import BaseModel, Field

from haremile.api.schemas.base import Text, Whole
from haremile.core.records.memory_sizes import MOST_MIB
from haremile.core.records.profile import LEAST_DISK_MIB, MOST_CORES, MOST_DISK_MIB
from haremile.usecases.guests import MOST_STEPS, ProofPhase


class LadderIn(BaseModel):
    """Virtual machines of one kind; memories in MiB, and of the disk, None for the image's."""

    name: Text
    memories: list[Annotated[Whole, Field(ge=1, le=MOST_MIB)]] = Field(
        min_length=1, max_length=MOST_STEPS
    )
    cores: Whole = Field(default=1, ge=1, le=MOST_CORES)
    bus: Text = "virtio"
    firmware: Text = "bios"
    disk_mib: Whole | None = Field(default=None, ge=LEAST_DISK_MIB, le=MOST_DISK_MIB)


class LadderOut(BaseModel):
    ids: list[UUID]


class ImageIn(BaseModel):
    """What guests of a system boot: one of the images that are here, and how *ready* is told:
    probe, serial:TEXT, port:NUMBER or screen; seconds."""

    image: Text
    ready: Text
    quiet_s: Whole | None = Field(default=None, ge=1, le=600)
    limit_s: Whole | None = Field(default=None, ge=1, le=86_400)


class PlaceIn(BaseModel):
    """A system on a virtual machine."""

    system: UUID
    machine: UUID


class PathIn(BaseModel):
    """A file of this host, by its whole path."""

    path: Text


class ProofOut(BaseModel):
    """One boot that counts for nothing; seconds since power-on."""

    id: UUID
    system: str
    machine: str
    phases: list[ProofPhase]
    is_over: bool
    is_ready: bool
    said: str
    log_tail: str
    lines: list[str]
    picture: str | None
