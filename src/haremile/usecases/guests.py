"""Guests put to work: a ladder of virtual machines, what a system boots, and the proof that it
does."""

import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.core.records.profile import MachineProfile
from haremile.core.records.study import Install, Machine, StudyState
from haremile.errors import BadInputError, ConflictError, HareMileError, RunFailedError
from haremile.usecases.ports import (
    GuestView,
    GuestWork,
    Images,
    Library,
    RunOrder,
    StudyRepository,
)

VIRTUAL = "virtual"
MOST_STEPS = 12
ADVICE = {
    "probe": "nothing of ours is inside it, perhaps: tell ready by its screen or its serial line",
    "serial": "the text did not come on its serial line; look at what did, or tell by its screen",
    "port": "the port did not answer; is a server there, and a network card that it knows?",
    "screen": "its screen never kept still; give it longer, or tell by its serial line",
}
"""What to change where a system was not seen to be ready, by the way in which that is told."""


def ladder(name: str, host: str, memories: Sequence[int], base: MachineProfile) -> list[Machine]:
    """Virtual machines that differ in their memory alone.

    Parameters
    ----------
    name : str
        What all are called; with more than one, each has its memory behind it.
    memories : sequence of int
        MiB, distinct.
    """
    if not 1 <= len(memories) <= MOST_STEPS or len(set(memories)) < len(memories):
        raise BadInputError(f"a ladder has 1 to {MOST_STEPS} different sizes, not {list(memories)}")
    made = []
    for size in sorted(memories):
        profile = replace(base, memory_mib=size)
        called = name if len(memories) == 1 else f"{name}, {profile.memory_text}"
        made.append(Machine(called, VIRTUAL, host, profile.facts(), profile))
    return made


def image_recipe(
    image: str, ready: str, quiet_s: int | None, limit_s: int | None
) -> dict[str, str]:
    """What a guest of a system boots, and how it is told that it is ready."""
    recipe = {"image": image, "ready": ready}
    if quiet_s is not None:
        recipe["quiet_s"] = str(quiet_s)
    if limit_s is not None:
        recipe["ready_limit_s"] = str(limit_s)
    return recipe


def delete_image(images: Images, library: Library, name: str) -> None:
    """Delete a tester's own image from this host.

    Raises
    ------
    NotFoundError
        If there is none of that name.
    ConflictError
        If guests of a system boot it.
    """
    found = next((one for one in images.here() if one.label == name), None)
    systems = [] if found is None else library.booted_by(found.image)
    if systems:
        raise ConflictError(
            f"guests of {', '.join(systems)} boot it; state another image there first"
        )
    images.delete(name)


@dataclass(frozen=True)
class ProofPhase:
    """A phase of a boot, and seconds since power-on where they are known."""

    name: str
    at_s: float | None


@dataclass
class Proof:
    """One boot that counts for nothing.

    Attributes
    ----------
    phases : list of ProofPhase
    is_over, is_ready : bool
    said : str
        How it ended, and what to change where it was not ready.
    """

    id: UUID
    system: str
    machine: str
    phases: list[ProofPhase] = field(default_factory=list)
    is_over: bool = False
    is_ready: bool = False
    said: str = ""
    log_tail: str = ""

    def note(self, name: str, at_s: float | None) -> None:
        """A phase has begun."""
        self.phases.append(ProofPhase(name, at_s))


class Proofs:
    """Boots guests to see that they work, one at a time; the last few are known."""

    KEPT = 20

    def __init__(self, work: GuestWork, studies: StudyRepository):
        self._work, self._studies = work, studies
        self._known: OrderedDict[UUID, Proof] = OrderedDict()
        self._guard = threading.Lock()

    def start(self, install: Install) -> Proof:
        """Begin a boot in the background.

        Raises
        ------
        ConflictError
            If another goes on, or a study runs: they would disturb each other.
        BadInputError, MissingHereError
            If its recipe is not valid here.
        """
        self._work.check(install)
        running = [one.title for one in self._studies.digests() if one.state is StudyState.RUNNING]
        if running:
            raise ConflictError(f"a study runs, which this boot would disturb: {running[0]}")
        with self._guard:
            if self._under_way() is not None:
                raise ConflictError("another system is being proved; wait until that is over")
            proof = Proof(uuid7(), install.system.name, install.machine.name)
            self._known[proof.id] = proof
            while len(self._known) > self.KEPT:
                self._known.popitem(last=False)
        threading.Thread(target=self._boot, args=(proof, install), daemon=True).start()
        return proof

    def under_way(self) -> str | None:
        """The system that is being proved just now; None where none is."""
        with self._guard:
            return self._under_way()

    def _under_way(self) -> str | None:
        return next((one.system for one in self._known.values() if not one.is_over), None)

    def get(self, key: UUID) -> Proof:
        """Raises BadInputError where it is not known (any more)."""
        if key not in self._known:
            raise BadInputError("this proof is not known any more; start it again")
        return self._known[key]

    def view(self, key: UUID) -> GuestView:
        """What is seen of it just now."""
        self.get(key)
        return self._work.view(key)

    def end(self, key: UUID) -> None:
        """End the boot at once."""
        self.get(key)
        self._work.interrupt(key)

    def _boot(self, proof: Proof, install: Install) -> None:
        order = RunOrder(proof.id, 1, "boot", install, 0, 1, 1)
        try:
            capture = self._work.run(
                order, lambda name, at: proof.phases.append(ProofPhase(name, at))
            )
            total = next((r for r in capture.readings if r.metric == "boot.total"), None)
            seconds = "" if total is None else f" after {total.value:.1f} s"
            proof.said, proof.is_ready = f"ready seen{seconds}", True
        except RunFailedError as error:
            way = install.recipe.get("ready", "probe").partition(":")[0]
            proof.said = f"{error.reason}: {error}; {ADVICE.get(way, 'look at its last lines')}"
            proof.log_tail = error.log_tail
        except (HareMileError, OSError) as error:
            proof.said = f"it could not be tried: {error}"
        finally:
            proof.is_over = True
