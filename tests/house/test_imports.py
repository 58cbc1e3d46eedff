"""What is imported is declared: nothing works only because something else brought it along."""

import ast
import re
import sys
import tomllib
from importlib.metadata import packages_distributions

import pytest

from haremile.config import ROOT

OURS = {"haremile", "haremile_probe", "tests"}
OF_THE_SYSTEM = {"gi", "PyQt5", "PyQt6"}
"""Of Debian's packages, for programs that tests launch by the system's own Python."""

ONLY_TO_DEVELOP = {"watchfiles"}
"""Looked for where it is used, and missed in words where it is not there."""

DECLARED = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]


def plain(name):
    """As names of packages are compared."""
    return re.sub(r"[-_.]+", "-", re.split(r"[\[<>=]", name)[0]).lower()


def imported(folder):
    """Modules that files of this folder import, by their first name."""
    found = set()
    for path in folder.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Import):
                found |= {one.name.partition(".")[0] for one in node.names}
            elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
                found.add(node.module.partition(".")[0])
    return found - set(sys.stdlib_module_names) - OURS


@pytest.mark.parametrize(("folder", "extras"), [("src", ()), ("tests", ("test", "long"))])
def test_every_import_is_declared(folder, extras):
    declared = {plain(one) for one in DECLARED["dependencies"]}
    for extra in extras:
        declared |= {plain(one) for one in DECLARED["optional-dependencies"][extra]}
    known = packages_distributions()
    local = {path.stem for path in (ROOT / "tests").iterdir()} | OF_THE_SYSTEM
    undeclared = {
        name
        for name in imported(ROOT / folder) - (local if folder == "tests" else ONLY_TO_DEVELOP)
        if not declared & {plain(one) for one in known.get(name, [name])}
    }
    assert undeclared == set()


def test_every_declared_package_is_pinned():
    pinned = {
        plain(line)
        for name in ROOT.glob("requirements*.txt")
        for line in name.read_text().splitlines()
        if line and not line.startswith(("#", "-", " "))
    }
    declared = [*DECLARED["dependencies"], *DECLARED["optional-dependencies"]["test"]]
    assert {plain(one) for one in declared} <= pinned
