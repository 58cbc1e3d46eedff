"""The library by keyboard: from an empty bench book, and with the sample world in it."""

import re

from playwright.sync_api import expect


def state(page, label, value, source):
    page.get_by_role("button", name=f"State {label}", exact=True).press("Enter")
    page.get_by_role("textbox", name=label).fill(value)
    page.get_by_label("Source").fill(source)
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_a_system_is_noted_stated_and_renamed(open_page, bench):
    page = open_page("/library")
    expect(page.get_by_role("heading", name="Library")).to_be_visible()
    page.keyboard.press("n")
    page.get_by_role("textbox", name="Name").fill("Varrow 12 Thistlow")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Varrow 12 Thistlow")
    state(page, "Channel", "stable", "the makers’ page")
    expect(page.get_by_role("row", name=re.compile("^Channel stable"))).to_be_visible()
    state(page, "Channel", "candidate", "the makers’ page")
    page.locator("summary").first.press("Enter")
    expect(page.get_by_text("stable (")).to_be_visible()
    page.keyboard.press("F2")
    page.get_by_role("textbox", name="Name").fill("Varrow 12")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Varrow 12")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Varrow 12 Thistlow")


def test_a_claim_stands_beside_what_was_measured(open_page, sample):
    page = open_page("/library")
    expect(page.get_by_role("link", name=re.compile("^Varrow 12 Thistlow"))).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("varrow 12 thistlow")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name=re.compile("^Varrow 12 Thistlow"))).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Varrow 12 Thistlow")
    page.keyboard.press("c")
    page.get_by_label("Amount").fill("300")
    page.get_by_label("Source").fill("the makers’ page")
    expect(page.get_by_role("button", name="Note it")).to_be_enabled()
    page.keyboard.press("Enter")
    expect(page.locator(".tag", has_text="kept").first).to_be_visible()
    page.get_by_role("button", name="Take out").press("Enter")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.locator(".tag", has_text="kept").first).to_be_visible()


def test_a_system_that_was_put_away_comes_back(open_page, sample):
    page = open_page("/library")
    page.get_by_role("link", name=re.compile("^Osterfell Base")).press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Osterfell Base")
    page.get_by_role("button", name="Put away", exact=True).press("Enter")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.get_by_role("button", name="Put away", exact=True)).to_be_visible()
    page.get_by_role("button", name="Put away", exact=True).press("Enter")
    expect(page.get_by_role("button", name="Bring back")).to_be_visible()
    page.goto(page.url.partition("/library")[0] + "/library")
    expect(page.get_by_role("link", name=re.compile("^Quillfern 8"))).to_be_visible()
    expect(page.get_by_role("link", name=re.compile("^Osterfell Base"))).to_have_count(0)
    page.get_by_role("button", name="Show systems that were put away").press("Enter")
    expect(page.get_by_role("link", name=re.compile("^Osterfell Base"))).to_be_visible()
