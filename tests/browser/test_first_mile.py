"""The whole path on real input: two real guests, from one key press to the verdict."""

import re

import pytest
from playwright.sync_api import expect

BOOTS = 16
LONGEST_MS = 300_000


@pytest.mark.parametrize("boots", [2, pytest.param(BOOTS, marks=pytest.mark.long)])
def test_the_real_study_fills_live_and_finds_the_difference(open_page, boots):
    page = open_page("/")
    expect(page.get_by_text("No study yet")).to_be_visible()
    page.keyboard.press("g")
    expect(page.get_by_role("heading", name="Does an Osterfell with services")).to_be_visible()
    expect(page.get_by_test_id("live-run")).to_be_visible(timeout=30_000)
    counts = []
    for aim in (1, 2, boots):  # the page is never reloaded: marks come by themselves
        expect(page.get_by_test_id("run-reading")).to_have_count(aim, timeout=LONGEST_MS)
        counts.append(aim)
    assert counts == [1, 2, boots]
    if boots < BOOTS:
        page.keyboard.press("x")
        # a run that is under way ends first
        expect(page.get_by_role("button", name="Go on")).to_be_visible(timeout=LONGEST_MS)
        page.keyboard.press("]")
    else:
        expect(page.get_by_text("16 of 16 runs done")).to_be_visible()
        page.keyboard.press("]")
        tells_the_difference(page)
    expect(page.get_by_role("button", name="Save picture")).to_be_visible()
    page.keyboard.press("r")
    page.get_by_role("button", name="Evidence").first.click()
    drawer = page.get_by_role("dialog")
    expect(drawer).to_contain_text("accelerator")
    drawer.get_by_text("meminfo", exact=True).click()
    expect(drawer).to_contain_text("MemAvailable:")


def tells_the_difference(page):
    verdict = page.get_by_role("button", name=re.compile("^Idle memory (?!without)"))
    expect(verdict).to_contain_text("uses less")
    verdict.click()
    answer = page.get_by_test_id("answer")
    expect(answer).to_have_text(
        re.compile(r"Osterfell Base uses less than Osterfell Server: typically \d+\.\d MiB less")
    )
