"""``haremile lint``: every rule of the house that is checked without running anything."""

import subprocess
import sys

import typer

from haremile.cli.session import present_settings, say

IMPORTS = "import sys; from importlinter.cli import lint_imports_command as c; c(sys.argv[1:])"
CHECKS = {
    "ruff": [sys.executable, "-m", "ruff", "check", "."],
    "format": [sys.executable, "-m", "ruff", "format", "--check", "."],
    "mypy": [sys.executable, "-m", "mypy"],
    "imports": [sys.executable, "-c", IMPORTS],
}
WEB_CHECKS = {
    "eslint": ["node_modules/.bin/eslint", ".", "--max-warnings", "0"],
    "tsc": ["node_modules/.bin/tsc", "--noEmit"],
    "prettier": ["node_modules/.bin/prettier", "--check", "src"],
}


def lint() -> None:
    """Check the rules of the house; what each finds is told."""
    root = present_settings().root
    failed = []
    for checks, folder in ((CHECKS, root), (WEB_CHECKS, root / "web")):
        for name, command in checks.items():
            say(name)
            if subprocess.run(command, cwd=folder, check=False).returncode != 0:
                failed.append(name)
    if failed:
        say(f"faults were found by: {', '.join(failed)}")
        raise typer.Exit(1)
