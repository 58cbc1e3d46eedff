"""The page that counts pictures, in a browser, and in one that leaves out every tenth."""

import pytest

from haremile_probe.load.frames import NAME, frames_page
from haremile_probe.load.signs import PageServer

EVERY_TENTH = """
let asked = 0, at = 0
window.requestAnimationFrame = (draw) =>
  setTimeout(() => draw((at += ++asked % 9 ? 1000 / 60 : 2000 / 60)), 0)
"""
"""A screen of 60 pictures a second by a clock of its own, whatever the machine is at."""


@pytest.fixture(name="counted")
def counted_by(browser):
    """What the page counts where a script runs before it."""

    def show(script=None):
        server = PageServer({NAME: frames_page(3.0)})
        page = browser.new_page()
        try:
            if script is not None:
                page.add_init_script(script)
            with page.expect_response(lambda answer: "/counts?" in answer.url, timeout=60_000):
                page.goto(server.address(1, NAME))
            return server.counts[1]
        finally:
            page.close()
            server.close()

    return show


def test_every_tenth_picture_that_is_left_out_is_counted(counted):
    found = counted(EVERY_TENTH)
    share = found["missed"] / (found["missed"] + found["shown"])
    assert share == pytest.approx(0.1, abs=0.005)
    assert found["ms"] == pytest.approx(3000, abs=60)


def test_the_first_seconds_stand_apart(counted):
    found = counted()
    assert found["start_shown"] > 0
    assert found["start_frames"] > 0
    assert found["ms"] > 2000
    assert found["dropped"] <= found["frames"]
