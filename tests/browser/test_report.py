"""The last post of the mile by keys: written, published, opened without a server, followed."""

import re

import pytest
from playwright.sync_api import expect

HERBARIUM = "Which edition boots the Herbarium laptop soonest?"


@pytest.fixture
def report_page(open_page, sample):
    page = open_page(f"/studies/{sample[HERBARIUM].id}/findings")
    expect(page.get_by_role("heading", name=HERBARIUM)).to_be_visible()
    page.keyboard.press("]")
    expect(page.get_by_text("Version 1 is out and says the same.")).to_be_visible()
    return page


def test_a_report_is_written_published_and_followed_to_its_readings(report_page, browser, tmp_path):
    page = report_page
    head = page.get_by_label("Headline")
    head.fill("Take Varrow to the herbarium")
    head.press("Tab")
    expect(page.get_by_role("heading", name="Take Varrow to the herbarium")).to_be_visible()
    page.get_by_role("button", name="Move Idle memory, Herbarium laptop up").press("Enter")
    page.evaluate("document.activeElement.blur()")
    expect(page.get_by_text("the report says more now")).to_be_visible()
    page.keyboard.press("p")
    expect(page.get_by_text("Version 2 is out and says the same.")).to_be_visible()
    with page.expect_download() as handed:
        page.get_by_role("button", name="Version 2 as one file").press("Enter")
    path = tmp_path / "report.html"
    handed.value.save_as(path)
    context = browser.new_context(offline=True)
    alone = context.new_page()
    alone.goto(path.as_uri())
    expect(alone.get_by_role("heading", name="Take Varrow to the herbarium")).to_be_visible()
    expect(alone.locator("figure svg").first).to_be_visible()
    median = alone.get_by_role("row", name=re.compile("^Varrow 12 Thistlow")).get_by_role("link")
    median.first.press("Enter")
    readings = alone.locator("details[open]")
    expect(readings).to_contain_text("Varrow 12 Thistlow")
    expect(readings.get_by_text("set aside: ")).to_be_visible()
    context.close()


def test_a_part_becomes_a_frame_of_a_video_and_the_race_a_film(report_page, tmp_path):
    page = report_page
    with page.expect_download() as handed:
        page.get_by_role("button", name=re.compile("^Video frame of .*, dark$")).first.press(
            "Enter"
        )
    frame = tmp_path / "frame.png"
    handed.value.save_as(frame)
    head = frame.read_bytes()[:24]
    assert [int.from_bytes(head[i : i + 4]) for i in (16, 20)] == [1920, 1080]
    expect(page.get_by_text("picture saved")).to_be_visible()
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("r")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("as fast as it was")).to_be_visible()
    dialog.get_by_label("pace").select_option("8 times as fast")
    expect(dialog.get_by_text("8 times as fast as it was")).to_be_visible()
    with page.expect_download(timeout=90_000) as film:
        dialog.get_by_role("button", name="Save as a video").press("Enter")
    film.value.save_as(tmp_path / "race.webm")
    assert (tmp_path / "race.webm").read_bytes()[:4] == b"\x1aE\xdf\xa3"


def test_begun_again_and_taken_back(report_page):
    page = report_page
    page.get_by_role("button", name="Begin again from the findings").press("Enter")
    lead = page.get_by_label("Lead (Markdown)")
    expect(lead).not_to_contain_text("twenty times")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(lead).to_contain_text("twenty times")
