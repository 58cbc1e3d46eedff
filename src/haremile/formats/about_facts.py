"""What an *about* capture tells of a system and its machine, as facts of the library."""

import json
from collections.abc import Mapping
from typing import Any

from haremile.core.records.bounds import checked_text
from haremile.core.records.library import Noun
from haremile.errors import BadInputError
from haremile.formats.captures import parse_brought
from haremile_probe.wire import Capture

MOST_BYTES = 4 * 2**20
MOST_FACT = 200
MIB, GIB = 2**20, 2**30
PACKAGE_TOOLS = {
    "dpkg-status": "dpkg",
    "apk-installed": "apk",
    "pacman-local": "pacman",
    "rpm-packages": "rpm",
}


def about_of(body: bytes) -> Capture:
    """The capture that was brought, whether as a document or as gathered text.

    Raises
    ------
    BadInputError
        If it is none, several, or too large for one.
    """
    if len(body) > MOST_BYTES:
        raise BadInputError(f"an about capture is smaller than {MOST_BYTES // MIB} MiB")
    brought = parse_brought("what was pasted", body)
    if len(brought) != 1 or brought[0].capture is None:
        raise BadInputError(
            "this is no about capture; run: python3 haremile-probe.pyz about --json"
        )
    return brought[0].capture


def about_facts(capture: Capture, noun: Noun) -> dict[str, str]:
    """Facts by their key in the library; what it does not tell is not there. Raises
    BadInputError where it tells nothing at all."""
    try:
        stated = json.loads(capture.text_of("facts") or "{}")
    except (ValueError, RecursionError):
        stated = {}
    known = stated if isinstance(stated, dict) else {}
    found = _system(known) if noun is Noun.SYSTEM else _machine(known)
    facts = {key: _text(value) for key, value in found.items()}
    told = {key: text for key, text in facts.items() if text}
    if not told:
        raise BadInputError(f"this capture tells nothing of a {noun}: it was asked {capture.asked}")
    return told


def _system(known: Mapping[str, Any]) -> dict[str, object]:
    session, packages = _inner(known, "session"), _inner(known, "packages")
    tools = [PACKAGE_TOOLS.get(str(name), str(name)) for name in packages]
    window = {"wayland": "Wayland", "x11": "X11"}.get(str(session.get("type")))
    counts = [f"{number} packages" for number in packages.values() if isinstance(number, int)]
    return {
        "desktop": session.get("desktop"),
        "window_system": window,
        "init": known.get("init"),
        "kernel": known.get("kernel"),
        "package_manager": ", ".join(tools),
        "comes_with": ", ".join(counts),
    }


def _machine(known: Mapping[str, Any]) -> dict[str, object]:
    processor, root = _inner(known, "processor"), _inner(known, "root")
    cores, model = processor.get("cores"), processor.get("model")
    size = known.get("memory_bytes")
    memory = f"{size / GIB:.1f} GiB" if isinstance(size, int) and size >= GIB else None
    if isinstance(size, int) and size < GIB:
        memory = f"{size / MIB:.0f} MiB"
    return {
        "cores": f"{cores}, {model}" if cores and model else cores,
        "memory": memory,
        "storage": root.get("storage"),
        "firmware": known.get("firmware"),
    }


def _inner(known: Mapping[str, Any], key: str) -> Mapping[str, Any]:
    found = known.get(key)
    return found if isinstance(found, dict) else {}


def _text(value: object) -> str:
    if value is None or not isinstance(value, (str, int)):
        return ""
    return checked_text(str(value).strip(), MOST_FACT)
