"""Standings by keyboard: from a record to its readings, and weights that turn the leader."""

import re

from playwright.sync_api import expect


def answer(page):
    return page.locator(".headline")


def test_a_record_leads_to_its_readings(open_page, sample):
    page = open_page("/standings?metric=memory.used&method=probe&machine=Herbarium+laptop")
    expect(answer(page)).to_contain_text("Quillfern 9-rc Tarnwick: the lightest yet")
    page.keyboard.press("j")
    behind = page.get_by_role("region", name="Behind the place of Quillfern 9-rc Tarnwick")
    expect(behind).to_contain_text("first of the list")
    link = behind.get_by_role("link", name="Which edition boots the Herbarium laptop soonest?")
    link.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Which edition boots")
    expect(page.get_by_role("table", name=re.compile("reading", re.I)).first).to_be_visible()


def test_what_would_place_an_island_is_planned_with_one_key(open_page, sample):
    page = open_page("/standings?metric=memory.used&method=probe")
    expect(page.get_by_role("group", name="Not placed")).to_contain_text("Hollowmere 1 Mossgate")
    page.keyboard.press("n")
    expect(page.get_by_label("Question")).to_have_value(re.compile("^Hollowmere 1 Mossgate beside"))


def test_bands_are_set_and_drawn(open_page, sample):
    page = open_page("/standings?metric=disk.used&method=statvfs")
    expect(answer(page)).to_be_visible()
    page.keyboard.press("b")
    page.get_by_label("Names and limits by turns").fill("small, 5 GiB")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("Write names and limits by turns")
    page.get_by_label("Names and limits by turns").fill("small, 5 GiB, large")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_text("large", exact=True)).to_be_visible()


def test_weights_turn_the_leader(open_page, sample):
    study = sample["Which edition boots the Herbarium laptop soonest?"].id
    page = open_page(f"/standings/totals?study={study}")
    expect(answer(page)).to_contain_text("Quillfern 9-rc Tarnwick leads with")
    number = page.get_by_label("Weight of Power-on to ready, number")
    number.fill("8")
    expect(answer(page)).to_contain_text("Varrow 12 Tarnwick leads with")
    slider = page.get_by_role("slider", name="Weight of Power-on to ready")
    slider.focus()
    page.keyboard.press("Home")
    expect(answer(page)).to_contain_text("Quillfern 9-rc Tarnwick leads with")
    page.locator("h1").click()
    page.keyboard.press("w")
    page.get_by_role("textbox", name="Name").fill("mornings")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("combobox", name=re.compile("^weights"))).to_have_value(re.compile("."))
    expect(page.get_by_text("by the figures that were stored with these weights")).to_be_visible()


def test_a_series_follows_an_edition(open_page, sample):
    page = open_page("/standings?metric=memory.used&method=probe")
    expect(answer(page)).to_be_visible()
    page.keyboard.press("v")
    expect(page.get_by_role("heading", name="Series")).to_be_visible()
    page.get_by_role("combobox", name=re.compile("^measure")).select_option(label="Idle memory")
    page.get_by_role("combobox", name=re.compile("^series")).select_option(
        label="releases of Quillfern Tarnwick"
    )
    expect(page.get_by_role("cell", name="Quillfern 9-rc Tarnwick")).to_be_visible()
    expect(page.get_by_test_id("answer")).to_contain_text("From release to release")


def test_an_incident_is_noted_on_a_phone(open_page, sample):
    page = open_page("/standings/incidents", viewport={"width": 390, "height": 800})
    expect(answer(page)).to_contain_text("Undecided who has the fewest incidents")
    page.get_by_role("button", name=re.compile("^Note an incident")).press("Enter")
    page.get_by_label("System").select_option(label="Varrow 12 Tarnwick")
    page.get_by_label("In a few words").fill("frozen pointer")
    page.keyboard.press("Enter")
    own = page.get_by_role("list", name="Varrow 12 Tarnwick")
    expect(own).to_contain_text("crash: frozen pointer")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(own).not_to_contain_text("frozen pointer")


def test_an_empty_bench_book_says_what_to_do(open_page):
    page = open_page("/standings")
    expect(page.get_by_text("Nothing was measured yet")).to_be_visible()
    page = open_page("/standings/totals")
    expect(page.get_by_text("An index needs one measured system at least.")).to_be_visible()


def test_which_system_for_this_machine(open_page, sample):
    page = open_page("/standings/fits", expects=("422",))
    expect(answer(page)).to_have_text("Say what the machine has")
    page.get_by_label("Memory, such as 2 GiB").fill("a lot")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("not an amount with a unit")
    page.get_by_label("Memory, such as 2 GiB").fill("1 GiB")
    page.keyboard.press("Enter")
    expect(answer(page)).to_have_text("Osterfell Base fits, with the highest index")
    expect(page.get_by_role("row", name=re.compile("^Marlstone 26.1 Mossgate"))).to_contain_text(
        "does not fit"
    )
    page.get_by_role("button", name="Plan that for Varrow 12 Thistlow").press("Enter")
    expect(page.get_by_label("Question")).to_have_value("Does Varrow 12 Thistlow fit?")
