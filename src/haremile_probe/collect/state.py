"""What the probe remembers on a machine: what it launched, and how well it measures here."""

import json
import os
from typing import Any, Dict, Optional

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


def remember(name: str, facts: Dict[str, Any]) -> None:
    """Keep this under its name."""
    os.makedirs(state_folder(), exist_ok=True)
    path = os.path.join(state_folder(), name + ".json")
    with open(path + ".part", "w", encoding="utf-8") as file:
        json.dump(facts, file, indent=1, sort_keys=True)
    os.replace(path + ".part", path)


def boot_id() -> Optional[str]:
    """The kernel's name of this boot, None where it gives none."""
    try:
        with open(BOOT_ID, encoding="ascii") as file:
            return file.read().strip()
    except OSError:
        return None
