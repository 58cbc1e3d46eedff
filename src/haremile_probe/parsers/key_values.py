"""Texts of ``KEY=VALUE`` lines: os-release, an environment, what the service manager states."""

import shlex
from typing import Dict, List

from haremile_probe.parsers import UnreadableError


def parse_os_release(text: str) -> Dict[str, str]:
    """Read ``/etc/os-release``: shell assignments, quoted as a shell would (os-release(5)).

    Raises UnreadableError on a line of another shape, or where neither ``ID`` nor ``NAME`` stands.
    """
    found: Dict[str, str] = {}
    for line in map(str.strip, text.splitlines()):
        if not line or line.startswith("#"):
            continue
        key, equals, quoted = line.partition("=")
        try:
            words = shlex.split(quoted)
        except ValueError:
            raise UnreadableError("unbalanced quotes in os-release: %r" % line[:80]) from None
        if not equals or len(words) > 1:
            raise UnreadableError("not a line of os-release: %r" % line[:80])
        found[key] = words[0] if words else ""
    if "ID" not in found and "NAME" not in found:
        raise UnreadableError("os-release names no system")
    return found


def parse_environment(text: str) -> Dict[str, str]:
    """Read lines ``KEY=VALUE``; the value is all after the first equals sign, as it stands."""
    found: Dict[str, str] = {}
    for line in text.splitlines():
        key, equals, value = line.partition("=")
        if line.strip() and not equals:
            raise UnreadableError("not a line KEY=VALUE: %r" % line[:80])
        if equals:
            found[key.strip()] = value
    return found


def parse_blocks(text: str) -> List[Dict[str, str]]:
    """Read several such texts with an empty line between them, one mapping for each."""
    blocks = [parse_environment(part) for part in text.split("\n\n")]
    return [block for block in blocks if block]
