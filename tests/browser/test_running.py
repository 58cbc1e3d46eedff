"""A person's hand in a study that runs, and Today, which tells of all machines."""

import pytest
from playwright.sync_api import expect

from haremile.config import ROOT
from haremile.core.records.study import RunState
from haremile.usecases.plan import checked_plan
from helpers import install

AXE = ROOT / "web/node_modules/axe-core/axe.min.js"
ONE_GIG = "Can any desktop live on one gigabyte?"


@pytest.fixture
def post(sample):
    return f"/studies/{sample[ONE_GIG].id}/run"


def test_a_run_is_skipped_and_failed_ones_are_planned_again_by_keys(sample, bench, open_page, post):
    page = open_page(post)
    page.get_by_role("button", name="Skip block").first.click()
    page.get_by_label("Because").fill("the lid was open")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    runs = bench.studies.runs(sample[ONE_GIG].id)
    assert [run.reason for run in runs if run.state is RunState.SKIPPED] == ["the lid was open"]
    page.get_by_role("button", name="Plan again").first.click()
    expect(page.get_by_role("button", name="Plan again")).to_have_count(0)


def test_a_disturbance_is_noted_on_the_spot_and_stays(open_page, post):
    page = open_page(post)
    expect(page.get_by_text("none was noted")).to_be_visible()
    page.keyboard.press("n")
    page.keyboard.type("the <b>fan</b> came on")
    page.keyboard.press("Enter")
    expect(page.get_by_text("the <b>fan</b> came on")).to_be_visible()
    page.reload()
    expect(page.get_by_text("the <b>fan</b> came on")).to_be_visible()


def test_today_tells_what_needs_a_hand_and_leads_there(sample, bench, open_page):
    installs = [install("Varrow 12", "Laptop", None), install("Quillfern 8", "Laptop", None)]
    bench.studies.create(checked_plan("By hand?", installs, 2, seed=1))
    page = open_page("/studies")
    expect(page.get_by_role("heading", name="Studies")).to_be_visible()
    page.keyboard.press("T")
    expect(page.get_by_text("0 at work, 2 waiting · 2 need you")).to_be_visible()
    expect(page.get_by_text("4 runs wait for a person")).to_be_visible()
    machine = page.get_by_role("listitem").filter(has_text="One-gig guest").last
    expect(machine.get_by_text("of 80 runs done")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="By hand?")).to_be_visible()


def test_today_says_so_where_there_is_nothing_to_do(address, open_page):
    page = open_page("/today")
    expect(page.get_by_text("No machine has anything to do.")).to_be_visible()


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_serious_on_today(sample, open_page, scheme):
    page = open_page("/today", color_scheme=scheme)
    expect(page.get_by_role("heading", name="Needs you")).to_be_visible()
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run()")["violations"]
    assert [v["id"] for v in found if v["impact"] in ("serious", "critical")] == []


def test_today_fits_a_phone(sample, open_page):
    page = open_page("/today", viewport={"width": 390, "height": 800})
    expect(page.get_by_role("heading", name="Needs you")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
