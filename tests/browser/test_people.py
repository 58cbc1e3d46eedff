"""Signing in, letting others in, and seeing what was done."""

import re

import pytest
from playwright.sync_api import expect

from haremile.usecases.access import OWNER
from helpers import AXE, entry_path, serious_faults

REFUSED = "status of 401"


def test_a_stranger_is_told_how_to_come_in_and_a_key_opens_what_was_asked(
    open_page, bench, browser
):
    page = open_page("/studies", expects=[REFUSED])
    page.context.clear_cookies()
    page.goto(page.url)
    expect(page.get_by_role("heading", name="This browser is not signed in")).to_be_visible()
    page.keyboard.type(bench.access.add_person("Ida", "work"))
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Studies")).to_be_visible()
    assert "page=" not in page.url
    page.get_by_role("link", name="People").click()
    expect(page.get_by_text("Signed in as Ida")).to_be_visible()
    expect(page.get_by_role("heading", name="Who may come in")).to_have_count(0)


def test_a_used_address_says_so(open_page, address, bench):
    path = entry_path(bench)
    page = open_page(path, expects=[REFUSED])
    page.goto(address + path)
    expect(page.get_by_role("alert")).to_contain_text("was used already")


def test_a_key_is_made_shown_once_and_revoked_by_keyboard(open_page, bench):
    page = open_page("/people")
    expect(page.get_by_role("heading", name="Who may come in")).to_be_visible()
    page.keyboard.press("n")
    page.keyboard.type("Ida Wren")
    page.keyboard.press("Enter")
    shown = page.locator(".secret")
    expect(shown).to_have_text(re.compile("^[0-9a-f]{48}$"))
    assert bench.access.of_key(shown.inner_text()).name == "Ida Wren"
    page.keyboard.press("Enter")
    row = page.get_by_role("row").filter(has_text="Ida Wren").first
    expect(row).to_contain_text("work")
    page.get_by_label("Revoke every key and session of Ida Wren").click()
    page.get_by_role("dialog").get_by_role("button", name="Revoke").click()
    expect(page.get_by_text("revoked keys")).to_be_visible()
    expect(row).to_contain_text("0")


def test_a_device_is_paired_by_a_code(open_page, bench):
    page = open_page("/people")
    expect(page.get_by_role("heading", name="Who may come in")).to_be_visible()
    page.keyboard.press("d")
    code = page.locator(".secret").inner_text()
    assert bench.access.enter(code, "a phone") is not None
    page.keyboard.press("Enter")
    expect(page.get_by_text("made a code for a device")).to_be_visible()


def test_revoking_ends_an_open_page(open_page, bench):
    page = open_page("/people", expects=[REFUSED])
    expect(page.get_by_text("this one")).to_be_visible()
    bench.access.revoke_person(OWNER)
    page.reload()
    expect(page.get_by_role("heading", name="This browser is not signed in")).to_be_visible()


def test_who_loses_the_pages_secret_is_told(open_page):
    page = open_page("/studies", expects=[REFUSED])
    page.evaluate("localStorage.clear()")
    page.reload()
    expect(page.get_by_text("This browser is not signed in any more")).to_be_visible()
    page.get_by_role("link", name="Sign in").click()
    expect(page.get_by_label("Or type a key")).to_be_focused()


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_serious_in_either_page(open_page, scheme):
    page = open_page("/people", color_scheme=scheme)
    expect(page.get_by_text("this one")).to_be_visible()
    page.evaluate(AXE.read_text())
    assert serious_faults(page) == []
    page.goto(page.url.replace("/people", "/enter"))
    page.evaluate(AXE.read_text())
    assert serious_faults(page) == []


def test_a_phone_shows_people_without_scrolling_sideways(open_page):
    page = open_page("/people", viewport={"width": 390, "height": 800})
    expect(page.get_by_text("this one")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
