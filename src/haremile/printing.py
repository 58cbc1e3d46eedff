"""Pages printed as PDF by the browser that is on this machine."""

import shutil
import subprocess
import tempfile
import threading
from pathlib import Path

from haremile.errors import HareMileError, MissingHereError
from haremile.processes import child_command, child_environment

BROWSERS = ("chromium", "chromium-browser")
LIMIT_S = 60.0
SETTLE_MS = 10_000
"""Of the page's own clock, which runs ahead while nothing is under way."""

_turn = threading.Lock()
"""One is printed at a time."""


def _browser() -> str | None:
    return next((path for name in BROWSERS if (path := shutil.which(name))), None)


def no_pdf_reason() -> str | None:
    """Why no PDF can be made here; None where one can."""
    if _browser() is None:
        return "Chromium is not installed on this machine; print the page from a browser instead"
    return None


def print_pdf(page: bytes) -> bytes:
    """A page of ours as PDF, printed without network.

    Raises
    ------
    MissingHereError
        If there is no browser.
    HareMileError
        If it printed nothing in time.
    """
    browser = _browser()
    if browser is None:
        raise MissingHereError(no_pdf_reason() or "")
    with _turn, tempfile.TemporaryDirectory(prefix="haremile-print-") as folder:
        source, target = Path(folder) / "report.html", Path(folder) / "report.pdf"
        source.write_bytes(page)
        command = [
            browser,
            "--headless",
            "--no-sandbox",  # the page is ours, and is fetched from nowhere
            "--disable-gpu",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--no-first-run",
            "--proxy-server=127.0.0.1:9",
            f"--user-data-dir={folder}/browser",
            f"--virtual-time-budget={SETTLE_MS}",
            "--no-pdf-header-footer",
            f"--print-to-pdf={target}",
            source.as_uri(),
        ]
        try:
            done = subprocess.run(
                child_command(command),
                env=child_environment(),
                capture_output=True,
                timeout=LIMIT_S,
                check=False,
            )
        except subprocess.TimeoutExpired:
            raise HareMileError(f"the browser printed nothing within {LIMIT_S:g} s") from None
        if not target.exists():
            told = done.stderr.decode("utf-8", "replace").strip().splitlines()
            raise HareMileError(f"the browser printed nothing: {told[-1] if told else 'no word'}")
        return target.read_bytes()
