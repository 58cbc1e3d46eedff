"""The list of studies and a plan before its first run, by keyboard."""

from playwright.sync_api import expect

from haremile.core.records.study import StudyState
from haremile.usecases.plan import checked_plan
from helpers import install


def test_the_list_says_what_each_study_answers_and_finds(open_page, sample):
    page = open_page("/studies")
    laptop = page.get_by_role("link", name="Which edition boots the Herbarium laptop soonest?")
    expect(laptop).to_contain_text("ahead by")
    expect(laptop).to_contain_text("Power-on to ready, Herbarium laptop")
    page.keyboard.press("/")
    page.keyboard.type("field-kit ahead")
    expect(page.locator("a.study")).to_have_count(2)
    page.keyboard.press("Enter")
    expect(page.locator("a.study").first).to_be_focused()
    page.keyboard.press("/")
    page.keyboard.press("End")
    page.keyboard.type(" nothing of the kind")
    page.get_by_role("button", name="Show all").press("Enter")
    page.get_by_label("State").select_option("paused")
    expect(page.locator("a.study")).to_have_count(1)


def test_a_plan_is_told_what_it_will_tell_while_it_is_typed(open_page, sample):
    page = open_page("/studies")
    expect(page.locator("a.study").first).to_be_visible()
    page.keyboard.press("n")
    for name in ("Varrow 12 Tarnwick", "Marlstone 26.1 Mossgate"):
        page.get_by_role("checkbox", name=f"{name} on One-gig guest").press("Space")
    told = page.get_by_role("region", name="What it will tell")
    expect(told).to_contain_text("is called nine times in ten")
    before = told.inner_text()
    page.get_by_label("Repeats (blocks)").fill("30")
    expect(told).to_contain_text("60 runs")
    assert told.inner_text() != before
    page.get_by_label("Repeats (blocks)").fill("2")
    expect(told).to_contain_text("Too few repeats for any verdict")


def test_a_plan_is_duplicated(open_page, bench):
    plan = checked_plan("Which is lighter?", [install("A"), install("B")], 3, seed=4)
    study = bench.studies.create(plan)
    page = open_page(f"/studies/{study.id}/run")
    page.get_by_role("button", name="More").press("Enter")
    page.get_by_role("menuitem", name="Duplicate the plan").press("Enter")
    page.get_by_label("The question").fill("Which is lighter now?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Which is lighter now?")
    states = {one.title: one.state for one in bench.studies.digests()}
    assert states["Which is lighter now?"] is StudyState.PLANNED


def test_anything_is_found_by_its_name_from_any_page(open_page, sample):
    page = open_page("/methods")
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.keyboard.press("/")
    asked = page.get_by_role("combobox", name="Find a study, system, machine or page")
    expect(asked).to_be_focused()
    page.keyboard.type("quillfern 9")
    expect(page.get_by_role("option", name="Quillfern 9-rc Tarnwick")).to_be_visible()
    asked.fill("field-kit board")
    expect(page.get_by_role("option").first).to_contain_text("Field-kit board")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Field-kit board")
    page.keyboard.press("/")
    asked.fill("nothing of the kind")
    expect(page.get_by_text("Nothing is called so.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
