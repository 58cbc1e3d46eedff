"""Child processes that die with their parent and can be recognised as ours.

``HAREMILE_SESSION`` names the session that a process belongs to; after a test run no process may
carry it.
"""

import os
import re
import uuid

SESSION_VARIABLE = "HAREMILE_SESSION"


def session_id() -> str:
    """The session of this process, begun where there is none."""
    return os.environ.setdefault(SESSION_VARIABLE, str(uuid.uuid4()))


SECRET = re.compile(r"(^DATABASE_URL|^HAREMILE_.*(URL|KEY|TOKEN)|PASSWORD|SECRET)")
"""Variables that no child is given: what it needs of them it is handed otherwise."""


def child_environment() -> dict[str, str]:
    """This process's environment with the session named, and without its secrets."""
    session_id()
    return {name: value for name, value in os.environ.items() if not SECRET.search(name)}


def child_command(
    command: list[str],
    signal: str = "KILL",
    user: str | int | None = None,
    groups: tuple[int, ...] = (),
) -> list[str]:
    """Wrap `command` so that it gets `signal` when its parent ends, as `user` where root asks: by
    name with all groups, by number with these `groups` alone.

    The signal follows the end of the *thread* that starts the child: start it from one that lives.
    """
    wrapped = ["setpriv", "--no-new-privs", "--pdeathsig", signal]
    if isinstance(user, str):
        wrapped += [f"--reuid={user}", f"--regid={user}", "--init-groups"]
    elif user is not None:
        kept = ",".join(str(group) for group in groups)
        wrapped += [f"--reuid={user}", f"--regid={user}"]
        wrapped += [f"--groups={kept}" if kept else "--clear-groups"]
    return [*wrapped, "--", *command]
