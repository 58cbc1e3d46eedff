"""What the probe is asked on a machine for one run of the sheet."""

import shlex
from collections.abc import Mapping

from haremile.core.records.metrics import metric, own_name
from haremile.core.records.procedures import MEASURE, MEASURE_STEP
from haremile.errors import BadInputError, MissingHereError
from haremile_probe.jobs import (
    BY_NAME,
    COMMAND,
    OPTIONS,
    WARM,
    Job,
    JobError,
    checked_job,
    parse_options,
    words_of,
)
from haremile_probe.load.kinds import applications_of

PROCEDURES = frozenset(OPTIONS)
STATED = {"mix": "opens", "steps": "pages_open"}
"""Options of a ramp that a plan's conditions state, before those of a recipe."""

APP = "app."
"""Lines of a recipe that say which command or desktop entry an application's name stands for."""

MEASURE_LINES = "measure."
"""Lines of a recipe that say which command prints a measure of the tester's own."""


def probe_job(procedure: str, conditions: Mapping[str, str], recipe: Mapping[str, str]) -> Job:
    """What is asked for: a procedure, options of closed sets, and an application by its name.

    Parameters
    ----------
    procedure : str
    conditions : mapping
        Of a launch: its ``app``, and its ``start`` (warm where none is stated); of a ramp its
        ``app``, what it ``opens``, and how many ``pages_open``; of a command its ``measure``.
    recipe : mapping
        Of the install. ``probe.PROCEDURE`` holds options, as the probe writes them.

    Raises
    ------
    BadInputError
        If something lies outside of the closed sets.
    """
    try:
        options = parse_options(procedure, recipe.get(f"probe.{procedure}", ""))
        if procedure == "idle":
            options.setdefault("instants", "none")
        if procedure == "ramp":
            stated = {option: conditions.get(key) for option, key in STATED.items()}
            options.update({option: text for option, text in stated.items() if text})
        if procedure == COMMAND:
            key = conditions[MEASURE]
            options.update(measure=key, unit=metric(key).unit)
            if MEASURE_STEP in conditions:
                options["resolution"] = conditions[MEASURE_STEP]
            return checked_job(Job(procedure, options, own_name(key)))
        if procedure not in BY_NAME:
            return checked_job(Job(procedure, options))
        start = conditions.get("start", WARM) if procedure == "launch" else None
        return checked_job(Job(procedure, options, conditions.get("app"), start))
    except JobError as error:
        raise BadInputError(str(error)) from None


def probe_words(
    procedure: str, conditions: Mapping[str, str], recipe: Mapping[str, str]
) -> list[str]:
    """The probe's verb and its arguments, where an install's recipe says what names stand for.

    Raises
    ------
    BadInputError
        As `probe_job`.
    MissingHereError
        If the recipe says of no command for the application: a name is never a command.
    """
    job = probe_job(procedure, conditions, recipe)
    others = {name: shlex.join(command_of(name, recipe)) for name in _others(job)}
    if job.app is None:
        return words_of(job, others=others)
    lines = MEASURE_LINES if job.procedure == COMMAND else APP
    return words_of(job, command_of(job.app, recipe, lines), others)


def _others(job: Job) -> list[str]:
    """Applications that a job starts beside the one that it is asked for."""
    task = job.options.get("task")
    return [*applications_of(job.options.get("mix", "")), *([task] if task else [])]


def command_of(name: str, recipe: Mapping[str, str], lines: str = APP) -> list[str]:
    """The command that a recipe has for a name; raises MissingHereError for none."""
    command = recipe.get(f"{lines}{name}")
    if command is None:
        what = "application" if lines == APP else "command for"
        known = sorted(key.removeprefix(lines) for key in recipe if key.startswith(lines))
        raise MissingHereError(
            f"the recipe of this install has no {what} {name}"
            f" (it has: {', '.join(known) or 'none'}); "
            f"its owner states it: --set {lines}{name}=COMMAND"
        )
    try:
        return shlex.split(command)
    except ValueError as error:
        raise BadInputError(f"{lines}{name}: {error}") from None
