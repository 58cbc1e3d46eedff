"""The probe as one file that any machine's own Python runs: ``haremile-probe.pyz``."""

import hashlib
import importlib.util
import io
import zipfile
from functools import lru_cache
from importlib.metadata import distribution
from pathlib import Path

from haremile.errors import MissingHereError
from haremile_probe.native import BUILT

NAME = "haremile-probe.pyz"
GATHERER = "haremile-gather.sh"
SHEBANG = b"#!/usr/bin/env python3\n"
MAIN = "import sys\nfrom haremile_probe.main import main\nsys.exit(main())\n"
STAMP = (2026, 1, 1, 0, 0, 0)
VENDORED = {"Xlib": "python-xlib", "six": "six", "jeepney": "jeepney"}
"""Module to distribution: the pure-Python X client, what it needs, and a client of D-Bus."""


@lru_cache(maxsize=1)
def read_probe_archive() -> bytes:
    """Build the archive; the same bytes each time.

    Raises
    ------
    MissingHereError
        If the X client to be packed is not installed here.
    """
    packed = io.BytesIO()
    packed.write(SHEBANG)
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as archive:
        _add(archive, "__main__.py", MAIN.encode())
        _add_module(archive, "haremile_probe")
        for module, name in VENDORED.items():
            _add_module(archive, module)
            _add(archive, f"licences/{name}.txt", _licence(name))
    return packed.getvalue()


PACKED = {".py", ".webm"}
"""What of a module goes into the archive: its code, the clip of the page set, and native programs
where they were built."""


def enrol_line(address: str, pin: str | None) -> str:
    """What is pasted on a machine: it fetches the probe, makes sure that it is this one, enrols."""
    digest = hashlib.sha256(read_probe_archive()).hexdigest()
    # the sum proves the file, whoever sent it, so that the certificate need not be known yet
    fetch = f"curl -fsS{'k' if pin else ''} -o {NAME} {address}{NAME}"
    proof = f"echo '{digest}  {NAME}' | sha256sum -c"
    enrol = f"python3 {NAME} enrol {address.rstrip('/')}{f' --pin {pin}' if pin else ''}"
    return f"  {fetch} && {proof} && {enrol}"


def read_gatherer() -> bytes:
    """The shell script for machines without Python."""
    return (_home("haremile_probe") / GATHERER).read_bytes()


def _home(module: str) -> Path:
    found = importlib.util.find_spec(module)
    if found is None or found.origin is None:
        raise MissingHereError(f"{module} is not installed here; run ./haremile test to set it up")
    origin = Path(found.origin)
    return origin.parent if origin.name == "__init__.py" else origin


def _add_module(archive: zipfile.ZipFile, module: str) -> None:
    home = _home(module)
    if home.is_file():
        _add(archive, home.name, home.read_bytes())
        return
    for path in sorted(
        path
        for path in home.rglob("*")
        if (path.suffix in PACKED or path.parent.name == BUILT) and "tests" not in path.parts
    ):
        _add(archive, f"{module}/{path.relative_to(home)}", path.read_bytes())


def _licence(name: str) -> bytes:
    for file in distribution(name).files or ():
        if file.name.startswith(("LICENSE", "LICENCE", "COPYING")):
            return Path(str(file.locate())).read_bytes()
    raise MissingHereError(f"the licence text of {name} is not here")


def _add(archive: zipfile.ZipFile, name: str, body: bytes) -> None:
    entry = zipfile.ZipInfo(name, STAMP)
    entry.compress_type, entry.external_attr = zipfile.ZIP_DEFLATED, 0o644 << 16
    archive.writestr(entry, body)
