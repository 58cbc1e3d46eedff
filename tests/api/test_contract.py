"""The interface does what its own document says, whatever is sent to it."""

import os
import subprocess
import sys

import pytest

from haremile.api import brake
from haremile.config import ROOT
from haremile.usecases.access import Role
from haremile.usecases.runner import StudyRunner
from helpers import served

pytestmark = pytest.mark.long

EXAMPLES, SEED = 40, 20261005
STREAM = "/api/events"
"""Server-sent events do not end by themselves: the one address that is left out."""

CONFIG = """
seed = {seed}
continue-on-failure = true
headers = {{ Authorization = "Bearer {key}" }}
request-timeout = 20.0

[generation]
max-examples = {examples}
deterministic = true

[checks.positive_data_acceptance]
# what no schema can say (a metric of the catalogue, a file that is one) is refused with 422
expected-statuses = ["2xx", "401", "403", "404", "409", "422", "503"]

[checks.negative_data_rejection]
# an address that is too long is refused as such
expected-statuses = ["400", "401", "403", "404", "405", "409", "410", "413", "414", "422"]
"""


@pytest.fixture
def address(bench, world, throwaway_url, monkeypatch):
    """The sample world served; studies that are started begin nothing, or guests would boot."""
    monkeypatch.setattr(StudyRunner, "_run", lambda *words: None)
    monkeypatch.setattr(brake, "FREE", 10**9)  # wrong keys are shown on purpose
    with served(bench, throwaway_url) as made:
        yield made


def test_generated_requests_are_answered_as_the_document_says(bench, address, tmp_path):
    key = bench.access.add_person("Ida", Role.OWN)
    config = tmp_path / "schemathesis.toml"
    config.write_text(CONFIG.format(seed=SEED, key=key, examples=EXAMPLES))
    done = subprocess.run(
        [
            sys.executable,
            "-m",
            "schemathesis.cli",
            "--config-file",
            str(config),
            "run",
            f"{address}/api/openapi.json",
            "--checks",
            "all",
            "--exclude-path",
            STREAM,
            "--no-color",
            "--warnings",
            "off",
        ],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, "HYPOTHESIS_STORAGE_DIRECTORY": str(tmp_path)},
    )
    assert done.returncode == 0, (done.stdout + done.stderr)[-12_000:]
    assert not (ROOT / ".schemathesis").exists()
