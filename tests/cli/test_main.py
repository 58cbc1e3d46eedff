"""Verbs are loaded when they are asked for."""

import subprocess
import sys

import pytest

from haremile.cli.main import VERBS, command_line, exit_code
from haremile.errors import BadInputError, ConflictError, MissingHereError, NotFoundError

LOADED = """
import sys
from haremile.cli.main import command_line
command_line(sys.argv[1:])
print(*sorted(name.rpartition(".")[2] for name in sys.modules if name.startswith("haremile.cli.")))
print("fastapi" in sys.modules)
"""


def loaded_for(*words):
    done = subprocess.run(
        [sys.executable, "-c", LOADED, *words], capture_output=True, text=True, check=True
    )
    modules, has_server = done.stdout.splitlines()
    return set(modules.split()), has_server == "True"


def test_a_verb_loads_its_own_module_and_no_server():
    modules, has_server = loaded_for("study", "list")
    assert "study" in modules
    assert not {"serve", "key", "readings"} & modules
    assert not has_server


def test_the_version_loads_nothing():
    assert loaded_for("--version") == ({"main"}, False)


@pytest.mark.parametrize("words", [[], ["--help"], ["nonsense"]])
def test_all_verbs_are_there_where_none_is_asked_for(words):
    app = command_line(words)
    names = [one.name for one in (*app.registered_commands, *app.registered_groups)]
    assert sorted(names) == sorted(VERBS)


def test_each_kind_of_error_has_its_exit_code():
    assert exit_code(BadInputError("no number")) == exit_code(NotFoundError("study", "7")) == 2
    assert exit_code(MissingHereError("no guest")) == 3
    assert exit_code(ConflictError("it runs")) == 1
