"""What the probe remembers on a machine: what it launched, and how well it measures here."""

import json
import os
from typing import Any, Dict, Optional

from haremile_probe.keeping import write_whole
from haremile_probe.wire import Fault

BOOT_ID = "/proc/sys/kernel/random/boot_id"


def state_folder() -> str:
    """Where things are remembered, under the user's state home."""
    home = os.environ.get("XDG_STATE_HOME") or os.path.expanduser("~/.local/state")
    return os.path.join(home, "haremile")


def remembered(name: str) -> Dict[str, Any]:
    """What stands under this name; nothing where there is none or it is garbled."""
    try:
        with open(os.path.join(state_folder(), name + ".json"), encoding="utf-8") as file:
            found = json.load(file)
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def remember(name: str, facts: Dict[str, Any]) -> Optional[Fault]:
    """Keep this under its name; the fault where this machine lets nothing be kept, which takes
    nothing away from what was measured."""
    path = os.path.join(state_folder(), name + ".json")
    try:
        os.makedirs(state_folder(), exist_ok=True)
        write_whole(path, json.dumps(facts, indent=1, sort_keys=True).encode())
    except OSError as error:
        return Fault("denied", "remembering %s: %s: %s" % (name, path, error.strerror))
    return None


def boot_id() -> Optional[str]:
    """The kernel's name of this boot, None where it gives none."""
    try:
        with open(BOOT_ID, encoding="ascii") as file:
            return file.read().strip()
    except OSError:
        return None
