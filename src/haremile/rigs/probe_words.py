"""What the probe is asked on a machine for one run of the sheet."""

import shlex
from collections.abc import Mapping

from haremile.errors import BadInputError

PROCEDURES = frozenset({"boot", "idle", "footprint", "launch"})
STARTS = ("first-ever", "first-after-boot", "cache-dropped", "warm")


def probe_words(
    procedure: str, conditions: Mapping[str, str], recipe: Mapping[str, str]
) -> list[str]:
    """The probe's verb and its arguments.

    Parameters
    ----------
    procedure : str
    conditions : mapping
        Of a launch: its ``app``, and its ``start`` (warm where none is stated).
    recipe : mapping
        Of the install. ``probe.PROCEDURE`` holds further arguments; ``app.NAME`` the command or
        desktop entry of an application, whose name is its command otherwise.

    Raises
    ------
    BadInputError
        If the probe has no such procedure, or a launch names no application.
    """
    if procedure not in PROCEDURES:
        known = ", ".join(sorted(PROCEDURES))
        raise BadInputError(f"the probe does {known}, not {procedure}")
    words = [procedure, *shlex.split(recipe.get(f"probe.{procedure}", ""))]
    if procedure == "idle" and "--instants" not in words:
        words += ["--instants", "none"]
    if procedure == "launch":
        words += _launch_words(conditions, recipe)
    return words


def _launch_words(conditions: Mapping[str, str], recipe: Mapping[str, str]) -> list[str]:
    application = conditions.get("app", "")
    start = conditions.get("start", "warm")
    if not application or start not in STARTS:
        raise BadInputError(
            f"a launch needs an application and a start of {', '.join(STARTS)}; "
            f"not {application or 'none'}, {start}"
        )
    command = shlex.split(recipe.get(f"app.{application}", application))
    return ["--repeats", "1", "--start", start, "--", *command]
