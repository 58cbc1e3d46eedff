"""Settings, from an explicit mapping."""

import hashlib
import json
import math
import os
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from haremile.errors import BadInputError

ROOT = Path(__file__).resolve().parents[2]
DEFAULT_PORT = 8642
SERVING = "serving.json"
"""Where the address of the server that runs is found, in the data folder."""


@dataclass(frozen=True)
class Settings:
    """Where things lie and what is asked for.

    Attributes
    ----------
    root : Path
        The clone.
    data : Path
        What is kept: the cluster, the guests, what was proved.
    database_url : str or None
        The user's own database; None for a cluster of our own.
    simulated_speed : float
        Simulated seconds in one real second.
    calm_s : float
        How long a guest's boot waits at most until the host is calm, seconds.
    """

    root: Path
    data: Path
    database_url: str | None
    simulated_speed: float = 30.0
    calm_s: float = 0.0

    @property
    def guests(self) -> Path:
        """Where the built guest systems lie."""
        return self.data / "guests"

    @property
    def web(self) -> Path:
        """The built pages."""
        return self.root / "web" / "dist"


def settings_from(environment: Mapping[str, str], root: Path = ROOT) -> Settings:
    """Read the settings; `HAREMILE_DATA` and `DATABASE_URL` override what is usual."""
    stated = environment.get("HAREMILE_DATA")
    return Settings(
        root=root,
        data=Path(stated) if stated else _usual_data(environment, root),
        database_url=environment.get("DATABASE_URL") or None,
        simulated_speed=_positive(environment, "HAREMILE_SIMULATED_SPEED", 30.0),
        calm_s=_positive(environment, "HAREMILE_CALM_S", 0.0),
    )


def _positive(environment: Mapping[str, str], name: str, usual: float) -> float:
    text = environment.get(name)
    if text is None:
        return usual
    try:
        number = float(text)
    except ValueError:
        number = 0.0
    if not 0.0 < number < math.inf:
        raise BadInputError(f"{name} must be a positive number, not {text}")
    return number


def _usual_data(environment: Mapping[str, str], root: Path) -> Path:
    clone = hashlib.sha256(str(root).encode()).hexdigest()[:10]
    if os.geteuid() == 0:
        return Path("/var/lib/haremile") / clone
    home = environment.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(home) / "haremile" / clone


def serving(data: Path) -> tuple[str, str | None]:
    """Address of the server that runs on this data folder, and its certificate's sha256.

    Raises
    ------
    BadInputError
        If none runs.
    """
    try:
        facts = json.loads((data / SERVING).read_text())
        return str(facts["address"]), facts["pin"]
    except (OSError, ValueError, KeyError):
        raise BadInputError("no server runs here; start ./haremile serve") from None
