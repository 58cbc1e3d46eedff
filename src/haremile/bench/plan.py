"""Planning a study."""

import secrets
from collections.abc import Mapping, Sequence

from haremile.bench.ports import StudyBook, StudyPlan
from haremile.core.margin import Margin
from haremile.core.metrics import metric
from haremile.core.study import Install, Machine, Study, System
from haremile.errors import BadInputError

MOST_BLOCKS = 500
GUEST_MACHINE = "Tiny guest"
MIB = 2.0**20
FIRST_MILE_MARGINS = {
    "boot.total": Margin(amount=0.3),
    "boot.userspace": Margin(amount=0.3),
    "memory.used": Margin(amount=4 * MIB),
    "memory.used_nocache": Margin(amount=4 * MIB),
    "disk.used": Margin(amount=1 * MIB),
}
"""What matters in guests as small as these."""
FIRST_MILE_TITLE = "Does a laden Osterfell wake later than a bare one?"


def fresh_seed() -> int:
    """A seed for a study whose planner states none; kept with the study."""
    return secrets.randbelow(2**31)


def checked_plan(
    title: str,
    installs: Sequence[Install],
    blocks: int,
    seed: int | None = None,
    margins: Mapping[str, Margin] | None = None,
) -> StudyPlan:
    """Check what a person asked for.

    Raises
    ------
    BadInputError
        With a sentence that names what cannot be meant.
    """
    if not title.strip():
        raise BadInputError("a study needs a question as its title")
    if len(installs) < 2:
        raise BadInputError("a study compares at least two contenders")
    if not 1 <= blocks <= MOST_BLOCKS:
        raise BadInputError(f"repeats must be between 1 and {MOST_BLOCKS}, not {blocks}")
    for key in margins or {}:
        metric(key)
    return StudyPlan(
        title.strip(), list(installs), blocks, fresh_seed() if seed is None else seed, margins or {}
    )


def guest_installs(host: str) -> list[Install]:
    """The two tiny real systems on the virtual machine that this host carries."""
    machine = Machine(
        GUEST_MACHINE, "virtual", host, {"cores": "1", "memory": "256 MiB", "storage": "none"}
    )
    return [
        Install(
            System(f"Osterfell {edition}", "Osterfell", None, edition, "x86_64"),
            machine,
            rig="guest",
            recipe={"image": f"osterfell-{edition.lower()}"},
        )
        for edition in ("Base", "Laden")
    ]


def plan_first_mile(
    studies: StudyBook, host: str, blocks: int = 5, seed: int | None = None
) -> Study:
    """Plan the study of the two tiny real guests."""
    plan = checked_plan(FIRST_MILE_TITLE, guest_installs(host), blocks, seed, FIRST_MILE_MARGINS)
    return studies.create(plan)
