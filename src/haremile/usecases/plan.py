"""Planning a study."""

import secrets
from collections.abc import Mapping, Sequence
from uuid import UUID

from haremile.core.comparison.comparability import checked_overrides
from haremile.core.planning.stopping import PrecisionStopping
from haremile.core.records.draft import Order
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import metric, own_name
from haremile.core.records.own_measure import OwnMeasure
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.procedures import MEASURE, procedure_of
from haremile.core.records.rigs import rig_traits
from haremile.core.records.study import (
    Install,
    Machine,
    Study,
    System,
    split_procedure,
)
from haremile.core.records.units import MIB
from haremile.errors import BadInputError, ConflictError
from haremile.usecases.ports import StudyPlan, StudyRepository
from haremile_probe.load.kinds import KINDS, applications_of, parse_mix

MOST_BLOCKS = 500
GUEST_MACHINE = "Tiny guest"
FIRST_MILE_MARGINS = {
    "boot.total": Margin(amount=0.3),
    "boot.userspace": Margin(amount=0.3),
    "memory.used": Margin(amount=4 * MIB),
    "memory.used_nocache": Margin(amount=4 * MIB),
    "disk.used": Margin(amount=1 * MIB),
}
"""What matters in guests as small as these."""
DESKTOP_MACHINE = "Small guest"
DESKTOP_MEMORY_MIB = 768
DESKTOP_MARGINS = {
    "boot.total": Margin(amount=3.0),
    "boot.userspace": Margin(amount=3.0),
    "boot.kernel": Margin(amount=1.0),
    "disk.used": Margin(amount=50 * MIB),
}
"""What matters in emulated guests, whose times swing with the neighbours."""
DESKTOP_REPEATS = 5
DESKTOP_TITLE = "What does the Mossgate desktop cost over a bare Osterfell?"
FIRST_PAGE_MACHINE = "Small guest, two cores"
FIRST_PAGE_TITLE = "How soon after power-on can a page be read on a Mossgate desktop?"
FIRST_MILE_REPEATS = 8
"""So many that one or two boots disturbed by the neighbours leave the large differences decided."""
FIRST_MILE_TITLE = "Does an Osterfell with services boot later than a bare one?"

RAMP = "ramp:"


def fresh_seed() -> int:
    """A seed for a study whose planner states none; kept with the study."""
    return secrets.randbelow(2**31)


def checked_plan(
    title: str,
    installs: Sequence[Install],
    blocks: int,
    seed: int | None = None,
    margins: Mapping[str, Margin] | None = None,
    interim_looks: Sequence[int] = (),
    procedures: Sequence[str] = ("boot",),
    stopping: PrecisionPlan | None = None,
    order: Order = Order.BLOCKS,
) -> StudyPlan:
    """Check what a person asked for.

    Raises
    ------
    BadInputError
        With a sentence that names what is not valid.
    """
    if not title.strip():
        raise BadInputError("a study needs a question as its title")
    if not installs:
        raise BadInputError("a study has at least one contender")
    if not 1 <= blocks <= MOST_BLOCKS:
        raise BadInputError(f"repeats must be between 1 and {MOST_BLOCKS}, not {blocks}")
    for key in margins or {}:
        metric(key)
    if interim_looks and InterimLooks(tuple(interim_looks)).blocks != blocks:
        raise BadInputError(
            f"the last look must be at the last block, {blocks}, not {interim_looks[-1]}"
        )
    _check_procedures(procedures)
    _check_applications(procedures, installs)
    if stopping is not None:
        _check_stopping(stopping, blocks, interim_looks)
    return StudyPlan(
        title.strip(),
        list(installs),
        blocks,
        fresh_seed() if seed is None else seed,
        margins or {},
        tuple(procedures),
        interim_looks=tuple(interim_looks),
        stopping=stopping,
        order=order,
    )


def with_own_margins(
    margins: Mapping[str, Margin], procedures: Sequence[str], own: Sequence[OwnMeasure]
) -> dict[str, Margin]:
    """What a plan states, and else what was defined with the tester's own measures that it asks
    for. Raises BadInputError for a procedure that is none."""
    asked = {split_procedure(text)[1].get(MEASURE) for text in procedures}
    defined = {one.key: one.margin for one in own if one.margin.is_stated and one.key in asked}
    return {**defined, **margins}


def _check_procedures(procedures: Sequence[str]) -> None:
    if not procedures or len(set(procedures)) < len(procedures):
        raise BadInputError("a study does at least one procedure, and each of them once")
    ramped = [split_procedure(text)[1].get("app") for text in procedures if text.startswith(RAMP)]
    if len(set(ramped)) < len(ramped):
        raise BadInputError("a study ramps each application once; another study opens other things")
    for text in procedures:
        name, conditions = split_procedure(text)
        procedure_of(name)
        try:
            parse_mix(conditions.get("opens", KINDS[0]))
        except ValueError as error:
            raise BadInputError(f"{text}: {error}") from None


def _check_applications(procedures: Sequence[str], installs: Sequence[Install]) -> None:
    """What a study asks for is a name: the recipe of each install has to say what it stands for.
    An enrolled machine has a list of its own, and says so itself."""
    stated = [split_procedure(text)[1] for text in procedures]
    asked = [f"app.{one['app']}" for one in stated if "app" in one]
    asked += [f"app.{app}" for one in stated for app in applications_of(one.get("opens", ""))]
    asked += [f"measure.{own_name(one[MEASURE])}" for one in stated if MEASURE in one]
    for line in asked:
        for install in installs:
            if rig_traits(install.rig).starts_from_recipe and line not in install.recipe:
                where = f"{install.system.name}, {install.machine.name}"
                raise BadInputError(
                    f"nothing says what {line.partition('.')[2]} is on {where}; "
                    f"its owner states it in the recipe: --set {line}=COMMAND"
                )


def _check_stopping(stopping: PrecisionPlan, blocks: int, interim_looks: Sequence[int]) -> None:
    metric(stopping.metric)
    PrecisionStopping(stopping.width, blocks)
    if interim_looks:
        raise BadInputError(
            "a study stops on precision or reads verdicts at interim looks, not both"
        )


def extend_study(studies: StudyRepository, study_id: UUID, blocks: int) -> Study:
    """Add blocks after the last planned look, which costs: the extension spends half the error
    of the look before it.

    Raises
    ------
    BadInputError
        If it would hold too many blocks, or none is added.
    ConflictError
        If planned runs are still to be done, or no rig can do any.
    """
    study = studies.get(study_id)
    if not 1 <= blocks <= MOST_BLOCKS - study.blocks:
        most = MOST_BLOCKS - study.blocks
        raise BadInputError(f"blocks to add must be between 1 and {most}, not {blocks}")
    if study.draft is not None:
        raise ConflictError("this study is not started: change its plan instead")
    if not all(contender.install.rig for contender in study.contenders):
        raise ConflictError(
            "nothing operates the machines of these contenders; import further readings as a file"
        )
    if not all(run.state.is_finished for run in studies.runs(study_id)):
        raise ConflictError("the planned runs are not done; finish them before adding blocks")
    return studies.extend(study_id, blocks)


def override(studies: StudyRepository, study_id: UUID, key: str, reason: str | None) -> Study:
    """Compare although a condition differs, for a printed reason; None takes that back.

    Raises
    ------
    BadInputError
        If there is no such condition, or the reason is empty.
    """
    checked_overrides({key: "taken back" if reason is None else reason})
    studies.override(study_id, key, reason)
    return studies.get(study_id)


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
        for edition in ("Base", "Server")
    ]


def desktop_installs(host: str) -> list[Install]:
    """The bare system and the small desktop on one virtual machine that this host carries."""
    memory = str(DESKTOP_MEMORY_MIB)
    facts = {"cores": "1", "memory": f"{memory} MiB", "storage": "virtio disk"}
    machine = Machine(DESKTOP_MACHINE, "virtual", host, facts)
    common = "idle --window 10 --limit 120 --instants none; footprint --no-walk"
    launches = f"{common}; launch:Terminal:first-after-boot"
    return [
        Install(
            System(f"Osterfell {edition}", "Osterfell", None, edition, "x86_64"),
            machine,
            rig="guest",
            recipe={"image": image, "memory_mib": memory, "then": then, **apps},
        )
        for edition, image, then, apps in (
            ("Bare", "osterfell-bare", common, {}),
            ("Mossgate", "osterfell-mossgate", launches, {"app.Terminal": "xterm"}),
        )
    ]


def plan_desktop(
    studies: StudyRepository, host: str, blocks: int = DESKTOP_REPEATS, seed: int | None = None
) -> Study:
    """Plan the study of the bare system against the small desktop."""
    plan = checked_plan(DESKTOP_TITLE, desktop_installs(host), blocks, seed, DESKTOP_MARGINS)
    return studies.create(plan)


def first_page_install(host: str) -> Install:
    """The desktop with a browser, asked for its settled desktop and a first page."""
    memory = "1024"
    facts = {"cores": "2", "memory": f"{memory} MiB", "storage": "virtio disk"}
    return Install(
        System("Osterfell Mossgate Web", "Osterfell", None, "Mossgate Web", "x86_64"),
        Machine(FIRST_PAGE_MACHINE, "virtual", host, facts),
        rig="guest",
        recipe={
            "image": "osterfell-mossgate-web",
            "memory_mib": memory,
            "cores": "2",
            "probe.boot": "--until-settled --limit 600 --task Wayfarrow",
            "app.Wayfarrow": "surf",
            "app.Terminal": "xterm",
            "app.Menu": "menu:ctrl-escape",
        },
    )


def plan_first_page(
    studies: StudyRepository, host: str, blocks: int = DESKTOP_REPEATS, seed: int | None = None
) -> Study:
    """Plan the study of one desktop, from power-on to a page that can be read."""
    plan = checked_plan(FIRST_PAGE_TITLE, [first_page_install(host)], blocks, seed)
    return studies.create(plan)


def plan_first_mile(
    studies: StudyRepository,
    host: str,
    blocks: int = FIRST_MILE_REPEATS,
    seed: int | None = None,
) -> Study:
    """Plan the study of the two tiny real guests."""
    plan = checked_plan(FIRST_MILE_TITLE, guest_installs(host), blocks, seed, FIRST_MILE_MARGINS)
    return studies.create(plan)
