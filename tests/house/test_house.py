"""The checks that keep the house in order, each as a test."""

import subprocess
import sys

import pytest

from haremile.config import ROOT

WEB = ROOT / "web"
BIN = ROOT / "web" / "node_modules" / ".bin"


def run(command, cwd=ROOT):
    done = subprocess.run(command, cwd=cwd, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout[-4000:] + done.stderr[-4000:]


@pytest.mark.parametrize(
    "words",
    [
        ["ruff", "check", "--no-cache", "."],
        ["ruff", "format", "--no-cache", "--check", "."],
        ["mypy", "--cache-dir=/dev/null"],
        ["importlinter.cli", "--no-cache"],
    ],
    ids=lambda words: words[0],
)
def test_python_house_rules(words):
    module, *rest = words
    if module == "importlinter.cli":
        code = "import sys; from importlinter.cli import lint_imports_command as c; c(sys.argv[1:])"
        run([sys.executable, "-c", code, *rest])
    else:
        run([sys.executable, "-m", module, *rest])


def test_web_house_rules():
    run([BIN / "eslint", ".", "--max-warnings", "0"], WEB)


def test_web_format():
    run([BIN / "prettier", "--check", "--log-level=warn", "src"], WEB)


def test_web_types():
    run([BIN / "tsc", "--noEmit"], WEB)


def test_pure_web_functions():
    run([BIN / "vitest", "run", "--no-cache"], WEB)


def test_no_registry_is_named_in_any_file():
    hidden = "ertvfgel.aczwf aczwf.bet clcv.bet clgubaubfgrq.bet"
    turn = str.maketrans("abcdefghijklmnopqrstuvwxyz", "nopqrstuvwxyzabcdefghijklm")
    for host in hidden.translate(turn).split():
        done = subprocess.run(
            ["git", "grep", "-I", "-l", "-i", host],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=False,
        )
        assert done.stdout == "", host
