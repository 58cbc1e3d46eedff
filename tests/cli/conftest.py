import os
import subprocess
import sys

import pytest


@pytest.fixture
def haremile(bench, throwaway_url):
    """The command line on the throw-away database."""

    def run(*words, **more):
        environment = {
            **os.environ,
            "DATABASE_URL": throwaway_url,
            "PYTHONPATH": os.pathsep.join(sys.path),
            **more,
        }
        return subprocess.run(
            [sys.executable, "-m", "haremile", *words],
            capture_output=True,
            text=True,
            check=False,
            env=environment,
        )

    return run
