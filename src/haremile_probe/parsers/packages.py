"""Installed packages, from each package manager's own database, without the manager."""

import re
import struct
from typing import Dict, Iterator, List, NamedTuple, Optional

from haremile_probe.parsers import UnreadableError

RPM_NAME, RPM_VERSION, RPM_RELEASE, RPM_EPOCH = 1000, 1001, 1002, 1003
RPM_SIZE, RPM_LONG_SIZE = 1009, 5009
_INT32, _INT64, _STRINGS = 4, 5, (6, 9)


class Package(NamedTuple):
    """An installed package; `size_bytes` as its database states it, None where it does not."""

    name: str
    version: str
    size_bytes: Optional[int]


def parse_dpkg_status(text: str) -> List[Package]:
    """Read dpkg's ``status``: packages whose state is installed; sizes are KiB there."""
    found, stanzas = [], list(_stanzas(text))
    for fields in stanzas:
        if "Package" not in fields or "Status" not in fields:
            raise UnreadableError("a stanza of dpkg's status names no package or no status")
        if fields["Status"].split()[-1:] == ["installed"]:
            size = _number(fields.get("Installed-Size"), "Installed-Size")
            found.append(
                Package(
                    fields["Package"],
                    fields.get("Version", ""),
                    None if size is None else size * 1024,
                )
            )
    return found


def _stanzas(text: str) -> Iterator[Dict[str, str]]:
    for part in re.split(r"\n[ \t]*\n", text):
        fields = {}
        for line in part.splitlines():
            if line[:1] in (" ", "\t") or not line.strip():
                continue  # goes on with the field before, or says nothing
            key, colon, value = line.partition(":")
            if not colon:
                raise UnreadableError("not a field of a package: %r" % line[:80])
            fields[key] = value.strip()
        if fields:
            yield fields


def parse_apk_installed(text: str) -> List[Package]:
    """Read apk's ``installed``: P, V and I (bytes installed) of each stanza."""
    found = []
    for part in text.split("\n\n"):
        fields = {line[0]: line[2:] for line in part.splitlines() if line[1:2] == ":"}
        if not part.strip():
            continue
        if "P" not in fields or "V" not in fields:
            raise UnreadableError("a stanza of apk's database names no package: %r" % part[:80])
        found.append(Package(fields["P"], fields["V"], _number(fields.get("I"), "I")))
    return found


def parse_pacman_local(text: str) -> List[Package]:
    """Read pacman's ``local/*/desc``, all in one: ``%NAME%``, ``%VERSION%``, ``%SIZE%``."""
    found, fields = [], {}  # type: List[Package], Dict[str, str]
    key = None
    for line in [*text.splitlines(), "%NAME%"]:
        if line.startswith("%") and line.endswith("%"):
            key = line.strip("%")
            if key == "NAME" and fields:
                found.append(_pacman_package(fields))
                fields = {}
        elif line.strip() and key is not None:
            fields.setdefault(key, line.strip())
        elif line.strip():
            raise UnreadableError("not a field of pacman's database: %r" % line[:80])
    return found


def _pacman_package(fields: Dict[str, str]) -> Package:
    if "NAME" not in fields or "VERSION" not in fields:
        raise UnreadableError("pacman's database holds a package without name or version")
    return Package(fields["NAME"], fields["VERSION"], _number(fields.get("SIZE"), "SIZE"))


def parse_package_lines(text: str) -> List[Package]:
    """Read ``NAME VERSION BYTES`` a line, as the probe writes rpm's database down.

    Keys that packages are signed with are no packages and left out.
    """
    found = []
    for line in text.splitlines():
        words = line.split()
        if not words:
            continue
        if len(words) != 3:
            raise UnreadableError("not a line of packages: %r" % line[:80])
        if words[0] != "gpg-pubkey":
            size = None if words[2] == "?" else _number(words[2], "size")
            found.append(Package(words[0], words[1], size))
    return found


def parse_rpm_header(blob: bytes) -> Package:
    """Read name, version and size from a header of rpm's database (format version 4).

    The header is a count of entries and of data bytes, the entries (tag, type, offset, count), then
    the data, all big-endian. Raises UnreadableError where an entry points outside.
    """
    try:
        entries, size = struct.unpack_from(">II", blob)
        data = 8 + 16 * entries
        if data + size > len(blob):
            raise ValueError
        at = {}
        for number in range(entries):
            tag, kind, offset, _ = struct.unpack_from(">IIII", blob, 8 + 16 * number)
            at[tag] = (kind, data + offset)
        name, version = _rpm_text(blob, at, RPM_NAME), _rpm_text(blob, at, RPM_VERSION)
        release = _rpm_text(blob, at, RPM_RELEASE)
        epoch = _rpm_number(blob, at, RPM_EPOCH)
        bytes_used = _rpm_number(blob, at, RPM_LONG_SIZE)
        if bytes_used is None:
            bytes_used = _rpm_number(blob, at, RPM_SIZE)
    except (struct.error, ValueError, KeyError, UnicodeDecodeError):
        raise UnreadableError("not a header of rpm's database: %r" % blob[:16]) from None
    whole = "%s-%s" % (version, release)
    return Package(name, "%d:%s" % (epoch, whole) if epoch else whole, bytes_used)


def _rpm_text(blob: bytes, at: Dict[int, tuple], tag: int) -> str:  # type: ignore[type-arg]
    kind, start = at[tag]
    end = blob.index(b"\0", start)
    if kind not in _STRINGS:
        raise ValueError
    text = blob[start:end].decode()
    if not text or any(character.isspace() for character in text):
        raise ValueError
    return text


def _rpm_number(blob: bytes, at: Dict[int, tuple], tag: int) -> Optional[int]:  # type: ignore[type-arg]
    if tag not in at:
        return None
    kind, start = at[tag]
    if kind not in (_INT32, _INT64):
        raise ValueError
    return int(struct.unpack_from(">I" if kind == _INT32 else ">Q", blob, start)[0])


def _number(text: Optional[str], what: str) -> Optional[int]:
    if text is None:
        return None
    try:
        number = int(text)
    except ValueError:
        raise UnreadableError("%s is no whole number: %r" % (what, text[:40])) from None
    if number < 0:
        raise UnreadableError("%s is negative: %s" % (what, text))
    return number


def parse_apt_simulation(text: str) -> int:
    """Updates pending, from ``apt-get --simulate dist-upgrade``: lines ``Inst NAME [OLD] (NEW …)``.

    Packages that would come in anew have no old version and are no updates. Raises UnreadableError
    where the closing count is missing.
    """
    if not re.search(r"^\d+ upgraded, \d+ newly installed", text, re.MULTILINE):
        raise UnreadableError("the simulation of an upgrade did not come to its end")
    return len(re.findall(r"^Inst \S+ \[[^\]]+\] \(", text, re.MULTILINE))


def parse_update_lines(text: str) -> int:
    """Updates pending, from a list of ``NAME OLD -> NEW`` or ``NAME-OLD < NEW`` lines."""
    lines = [line for line in text.splitlines() if line.strip()]
    lines = [line for line in lines if not line.startswith(("Installed:", "WARNING"))]
    for line in lines:
        if not re.match(r"^\S+ +(?:\S+ -> \S+|< +\S+)", line):
            raise UnreadableError("not a line of updates: %r" % line[:80])
    return len(lines)
