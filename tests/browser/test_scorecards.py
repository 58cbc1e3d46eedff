"""A scorecard is written, changed and followed by keys; what works is noted on a phone."""

import re

from playwright.sync_api import expect

PHONE = {"width": 390, "height": 844}


def test_a_card_is_written_and_changed_by_keys(open_page, sample):
    page = open_page("/standings/scorecards")
    expect(page.get_by_role("link", name="Varrow 12 Tarnwick")).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_text("4 of 5 stars, a pleasure")).to_be_visible()
    page.keyboard.press("e")
    page.get_by_label("Score 3").fill("2.5")
    page.get_by_role("button", name="One good or bad point more").press("Enter")
    page.get_by_label("Good 4").fill("Ready before the kettle")
    finding = page.get_by_label("Rests on 4").locator("option", has_text="finding: ").first
    page.get_by_label("Rests on 4").select_option(finding.get_attribute("value"))
    page.get_by_label("Score 3").press("Enter")
    expect(page.get_by_text("3.8 of 5 stars, does its work")).to_be_visible()
    expect(page.get_by_text("First hour: 2½ of 5 stars, was 3½ of 5 stars")).to_be_visible()
    page.get_by_role("link", name=re.compile("^finding: ")).press("Enter")
    expect(page).to_have_url(re.compile("/findings$"))


def test_what_works_is_noted_on_a_phone_and_taken_back(open_page, sample):
    page = open_page("/standings/scorecards", viewport=PHONE)
    page.get_by_role("link", name="Varrow 12 Tarnwick").click()
    page.get_by_role("button", name="Note what works").click()
    page.get_by_label("What was tried").fill("camera")
    page.get_by_label("On which machine").select_option(label="Herbarium laptop")
    page.get_by_label("Whether it works").select_option("works sometimes")
    page.get_by_label("Worked, times").fill("3")
    page.get_by_label("Tried, times").fill("4")
    page.get_by_role("button", name="Note it").click()
    row = page.get_by_role("row", name=re.compile("^camera"))
    expect(row).to_contain_text("works 3 times of 4")
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(row).to_contain_text("not tried")
