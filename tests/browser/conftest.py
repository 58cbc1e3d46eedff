import os

import pytest
from playwright.sync_api import expect, sync_playwright

from haremile.usecases.plan import guest_installs
from helpers import entry_path, served

FLAGS = [
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
expect.set_options(timeout=20_000)  # two cores, shared with others


@pytest.fixture(scope="session")
def flags():
    """How the browser is started."""
    return [*FLAGS, *(["--no-sandbox"] if os.geteuid() == 0 else [])]


@pytest.fixture(scope="session")
def browser(flags):
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)
        yield made
        made.close()


@pytest.fixture
def address(bench, throwaway_url):
    """A served bench on an empty database."""
    for install in guest_installs(bench.host):
        bench.library.ensure(install)
    with served(bench, throwaway_url, bench.settings.web) as made:
        yield made


@pytest.fixture
def sample(bench, world, address):
    """The sample world's studies by title, served."""
    for install in guest_installs(bench.host):
        bench.library.ensure(install)
    return world


def secret_of_a_session(context, address, bench):
    """Signs a browser in without loading a page for it; what the first page is told of it."""
    answer = context.request.get(address + entry_path(bench), max_redirects=0)
    return answer.headers["location"].partition("#")[2]


@pytest.fixture
def open_page(browser, address, bench):
    """Opens pages that fail on console errors and on any request off loopback."""
    faults, contexts = [], []

    def make(path="/", expects=(), **options):
        context = browser.new_context(**{"viewport": {"width": 1280, "height": 800}, **options})
        contexts.append(context)
        page = context.new_page()
        page.on("pageerror", lambda error: faults.append(str(error)))
        page.on(
            "console",
            lambda m: (
                faults.append(m.text)
                if m.type == "error" and not any(known in m.text for known in expects)
                else None
            ),
        )
        page.on(
            "request",
            lambda r: (
                None if r.url.startswith((address, "data:", "blob:")) else faults.append(r.url)
            ),
        )
        page.goto(f"{address}{path}#{secret_of_a_session(context, address, bench)}")
        return page

    yield make
    for context in contexts:
        context.close()
    assert faults == []
