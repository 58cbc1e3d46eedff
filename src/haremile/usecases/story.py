"""A study told again from its events alone."""

from collections.abc import Iterable, Mapping
from uuid import UUID

from haremile.core.records.study import RunState
from haremile.usecases.ports import Event

BECOMES = {
    "run.leased": RunState.LEASED,
    "run.running": RunState.RUNNING,
    "run.done": RunState.DONE,
    "run.failed": RunState.FAILED,
    "run.lost": RunState.PLANNED,
    "run.planned": RunState.PLANNED,
    "run.skipped": RunState.SKIPPED,
}
"""What a run is after each event; `run.phase` and `run.adopted` change no state."""

WORDS = {
    "study.planned": "planned",
    "study.starting": "it is to begin",
    "study.running": "the study goes on",
    "study.pausing": "it is to pause after this run",
    "study.paused": "it is paused",
    "study.done": "every run is done",
    "study.stopped": "it stopped",
    "study.extended": "blocks were added",
    "study.ended_early": "it ended early",
    "study.disturbed": "disturbance",
    "machine.rests": "a machine rests",
    "machine.waits": "a machine waits",
    "reading.set_aside": "a reading was set aside",
    "reading.taken_back": "a reading was taken back",
    "run.adopted": "another worker goes on with",
}


def described_states(events: Iterable[Event]) -> dict[UUID, RunState]:
    """The state of every run that an event told of."""
    return {
        event.run_id: BECOMES[event.kind]
        for event in events
        if event.run_id is not None and event.kind in BECOMES
    }


def told(event: Event, runs: Mapping[UUID, str]) -> str:
    """One event as a line; `runs` names each run."""
    what = WORDS.get(event.kind, event.kind.partition(".")[2].replace("_", " "))
    said = [
        str(event.facts[key])
        for key in ("phase", "reason", "what", "text")
        if event.facts.get(key) is not None
    ]
    run = runs.get(event.run_id) if event.run_id is not None else None
    head = f"{run}: {what}" if run and event.kind.startswith("run.") else what
    return ": ".join([head, *said]) if said else head
