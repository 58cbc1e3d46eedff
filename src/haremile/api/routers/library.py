"""The library: systems and machines, what is stated of them, and what their makers claim."""

from uuid import UUID

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from haremile.api.dependencies import Bench
from haremile.api.ports import BenchParts
from haremile.api.schemas.library import (
    ClaimChange,
    ClaimIn,
    ClaimOut,
    FactIn,
    FilledOut,
    InstallChange,
    InstallHistoryOut,
    LibraryPageOut,
    LibraryWords,
    MachineChange,
    MachineIn,
    MadeOut,
    MeasuredOut,
    SystemChange,
    SystemIn,
    ThingOut,
)
from haremile.core.comparison.claims import MeasuredAgainst
from haremile.core.records.library import CLAIMS, MACHINE_FACTS, SYSTEM_FACTS, Noun, Source, Thing
from haremile.core.records.units import units_of
from haremile.formats.about_facts import about_of
from haremile.usecases.library import (
    ClaimLine,
    LibraryPage,
    OverTime,
    fill_from_about,
    library_page,
    over_time,
)

router = APIRouter(tags=["library"])


@router.get("/library/words")
def list_library_words() -> LibraryWords:
    """What can be stated of a system and a machine, and claimed of a system."""
    return LibraryWords(
        system=list(SYSTEM_FACTS),
        machine=list(MACHINE_FACTS),
        claims=list(CLAIMS),
        units={one.unit: units_of(one.unit) for one in CLAIMS},
    )


@router.get("/systems")
def list_systems(bench: Bench, put_away: bool = Query(default=False)) -> list[ThingOut]:
    """All systems, or all that were put away."""
    return [_thing(one) for one in bench.things.all(Noun.SYSTEM) if one.is_put_away == put_away]


@router.get("/machines")
def list_machines(bench: Bench, put_away: bool = Query(default=False)) -> list[ThingOut]:
    """All machines, or all that were put away."""
    return [_thing(one) for one in bench.things.all(Noun.MACHINE) if one.is_put_away == put_away]


@router.post("/systems", status_code=201)
def add_system(asked: SystemIn, bench: Bench) -> MadeOut:
    """Note a system; only its name is required."""
    identity = asked.model_dump(exclude={"name"}, exclude_none=True)
    return MadeOut(id=bench.things.add(Noun.SYSTEM, asked.name, identity))


@router.post("/machines", status_code=201)
def add_machine(asked: MachineIn, bench: Bench) -> MadeOut:
    """Note a machine; only its name is required."""
    identity = asked.model_dump(exclude={"name"}, exclude_none=True)
    return MadeOut(id=bench.things.add(Noun.MACHINE, asked.name, identity))


@router.get("/systems/{key}")
def get_system(key: UUID, bench: Bench) -> LibraryPageOut:
    """Everything that is known of a system."""
    return _page(library_page(bench.things, Noun.SYSTEM, key))


@router.get("/machines/{key}")
def get_machine(key: UUID, bench: Bench) -> LibraryPageOut:
    """Everything that is known of a machine."""
    return _page(library_page(bench.things, Noun.MACHINE, key))


@router.post("/systems/{key}/about")
async def fill_system(key: UUID, request: Request, bench: Bench) -> FilledOut:
    """State what an about capture, which is the body, tells of a system."""
    return await _filled(bench, Noun.SYSTEM, key, request)


@router.post("/machines/{key}/about")
async def fill_machine(key: UUID, request: Request, bench: Bench) -> FilledOut:
    """State what an about capture, which is the body, tells of a machine."""
    return await _filled(bench, Noun.MACHINE, key, request)


async def _filled(bench: BenchParts, noun: Noun, key: UUID, request: Request) -> FilledOut:
    body = await request.body()

    def fill() -> list[str]:
        return fill_from_about(bench.things, noun, key, about_of(body))

    return FilledOut(stated=await run_in_threadpool(fill))


@router.get("/systems/{key}/installs")
def list_system_installs(key: UUID, bench: Bench) -> list[InstallHistoryOut]:
    """The installs of a system, each with its history."""
    return [InstallHistoryOut.model_validate(one) for one in bench.things.installs_of(key)]


@router.get("/machines/{key}/installs")
def list_machine_installs(key: UUID, bench: Bench) -> list[InstallHistoryOut]:
    """The installs on a machine, each with its history."""
    return [InstallHistoryOut.model_validate(one) for one in bench.things.installs_of(key)]


@router.get("/systems/{key}/over-time")
def get_system_over_time(key: UUID, bench: Bench) -> list[OverTime]:
    """The main measures of a system on each machine, study after study."""
    found = over_time(bench.things, Noun.SYSTEM, key)
    return found


@router.get("/machines/{key}/over-time")
def get_machine_over_time(key: UUID, bench: Bench) -> list[OverTime]:
    """The main measures of each system on a machine, study after study."""
    found = over_time(bench.things, Noun.MACHINE, key)
    return found


@router.patch("/installs/{key}", status_code=204)
def change_install(key: UUID, asked: InstallChange, bench: Bench) -> None:
    """Put an install away or bring it back; make it a reference, or no more; state what was added
    to it."""
    if asked.is_put_away is not None:
        bench.things.put_install_away(key, asked.is_put_away)
    if asked.is_reference is not None:
        bench.things.make_reference(key, asked.is_reference)
    if asked.added is not None:
        bench.things.note_added(key, asked.added)


@router.patch("/systems/{key}", status_code=204)
def change_system(key: UUID, asked: SystemChange, bench: Bench) -> None:
    """Rename a system, state what tells it from others, put it away or bring it back."""
    _change(bench, Noun.SYSTEM, key, asked)


@router.patch("/machines/{key}", status_code=204)
def change_machine(key: UUID, asked: MachineChange, bench: Bench) -> None:
    """Rename a machine, state its kind, put it away or bring it back."""
    _change(bench, Noun.MACHINE, key, asked)


@router.put("/systems/{key}/facts/{fact}", status_code=204)
def state_system_fact(key: UUID, fact: str, asked: FactIn, bench: Bench) -> None:
    """State something of a system, with its source; what was stated before is kept."""
    _state(bench, Noun.SYSTEM, key, fact, asked)


@router.put("/machines/{key}/facts/{fact}", status_code=204)
def state_machine_fact(key: UUID, fact: str, asked: FactIn, bench: Bench) -> None:
    """State something of a machine, with its source; what was stated before is kept."""
    _state(bench, Noun.MACHINE, key, fact, asked)


@router.post("/systems/{key}/claims", status_code=204)
def add_claim(key: UUID, asked: ClaimIn, bench: Bench) -> None:
    """Note what the makers of a system claim, or a guess of one's own."""
    source = Source(asked.source, asked.source_on)
    bench.things.claim(key, asked.key, asked.value, asked.unit, asked.is_own_guess, source)


@router.patch("/systems/{key}/claims/{claim}", status_code=204)
def change_claim(key: UUID, claim: UUID, asked: ClaimChange, bench: Bench) -> None:
    """Take a claim out, or bring it back."""
    bench.things.put_claim_away(key, claim, asked.is_put_away)


def _change(bench: BenchParts, noun: Noun, key: UUID, asked: SystemChange | MachineChange) -> None:
    identity = asked.model_dump(exclude={"name", "is_put_away"}, exclude_unset=True)
    if noun is Noun.MACHINE and identity.get("kind", "") is None:
        identity = {}  # a machine is always of some kind
    if identity:
        bench.things.change(noun, key, identity)
    if asked.is_put_away is not None:
        bench.things.put_away(noun, key, asked.is_put_away)
    if asked.name is not None:
        bench.things.rename(noun, key, asked.name)


def _state(bench: BenchParts, noun: Noun, key: UUID, fact: str, asked: FactIn) -> None:
    source = Source(asked.source, asked.source_on)
    bench.things.state(noun, key, fact, asked.value, source)


def _thing(thing: Thing) -> ThingOut:
    return ThingOut(
        id=thing.id,
        name=thing.name,
        identity=dict(thing.identity),
        is_put_away=thing.is_put_away,
        aliases=list(thing.aliases),
        installs=thing.installs,
        studies=thing.studies,
        found=dict(thing.found),
        makes_guests=thing.makes_guests,
        stated={key: fact.value or "" for key, fact in thing.present().items()},
    )


def _page(page: LibraryPage) -> LibraryPageOut:
    return LibraryPageOut(
        thing=_thing(page.thing),
        lines=list(page.lines),
        claims=[_claim(one) for one in page.claims],
        studies=list(page.studies),
    )


def _claim(line: ClaimLine) -> ClaimOut:
    return ClaimOut(
        claim=line.claim,
        label=line.label,
        beside=line.beside,
        scale=line.scale,
        metric=line.metric,
        measured=[_measured(one) for one in line.measured],
    )


def _measured(one: MeasuredAgainst) -> MeasuredOut:
    interval = one.summary.median_interval
    return MeasuredOut(
        machine=one.machine,
        method=one.method,
        medium=one.medium,
        n=one.summary.n,
        median=one.summary.median,
        low=interval.low if interval else None,
        high=interval.high if interval else None,
        kept=one.kept,
    )
