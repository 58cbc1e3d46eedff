"""The rigs that there are, and what the rest must know of each."""

from dataclasses import dataclass


@dataclass(frozen=True)
class RigTraits:
    """What holds for every machine that a rig operates.

    Attributes
    ----------
    key : str
        What an install names.
    is_host_bound : bool
        It works only on the host that carries the machine.
    starts_from_recipe : bool
        The commands of launches stand in the install's recipe; otherwise the machine has its own
        list of what may be started.
    asks_by_itself : bool
        The machine asks for its jobs, and goes on with one though nobody waits for it here.
    is_person : bool
        A person does it, in their own time.
    """

    key: str
    is_host_bound: bool = False
    starts_from_recipe: bool = False
    asks_by_itself: bool = False
    is_person: bool = False


RIGS = {
    one.key: one
    for one in (
        RigTraits("guest", is_host_bound=True, starts_from_recipe=True),
        RigTraits("here", is_host_bound=True, starts_from_recipe=True),
        RigTraits("enrolled", asks_by_itself=True),
        RigTraits("simulated"),
        RigTraits("person", asks_by_itself=True, is_person=True),
    )
}
ENROLLED = RIGS["enrolled"].key
PERSON = RIGS["person"].key


def rig_traits(key: str | None) -> RigTraits:
    """What holds for a rig; one that is not known, or none, has nothing special."""
    return RIGS.get(key or "", RigTraits(key or ""))
