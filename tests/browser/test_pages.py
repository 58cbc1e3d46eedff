"""Journeys through the sample world."""

import re

import pytest
from playwright.sync_api import expect

from haremile.core.records.library import Noun
from helpers import AXE, serious_faults

HERBARIUM = "Which edition boots the Herbarium laptop soonest?"
ONE_GIG = "Can any desktop live on one gigabyte?"


def findings_of(sample, title=HERBARIUM):
    return f"/studies/{sample[title].id}/findings"


def test_keys_alone_lead_from_the_list_to_one_readings_evidence(sample, open_page):
    page = open_page("/studies")
    expect(page.get_by_role("link", name=re.compile(HERBARIUM[:-1]))).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("answer")).to_contain_text("Varrow 12 Tarnwick is ahead")
    page.keyboard.press("r")
    evidence = page.get_by_role("button", name="Evidence").first
    evidence.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("sha256")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_arrows_move_through_the_verdicts_and_b_changes_the_baseline(sample, open_page):
    page = open_page(findings_of(sample))
    expect(page.get_by_role("heading", name="Power-on to ready")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("heading", name="Kernel", exact=True)).to_be_visible()
    before = page.get_by_role("combobox", name="against").input_value()
    page.keyboard.press("b")
    expect(page.get_by_role("combobox", name="against")).not_to_have_value(before)
    address = page.url
    page.reload()
    expect(page.get_by_role("heading", name="Kernel", exact=True)).to_be_visible()
    assert page.url == address


def test_a_reading_set_aside_stays_so_over_a_reload_until_taken_back(sample, open_page):
    page = open_page(findings_of(sample))
    expect(page.get_by_text("of 100 runs count: 3 failed, 1 set aside")).to_be_visible()
    page.keyboard.press("r")
    page.get_by_role("button", name="Evidence").nth(2).click()
    page.get_by_label("Set this reading aside, because").fill("the charger was out")
    page.get_by_role("button", name="Set aside").click()
    expect(page.get_by_text("Set aside: the charger was out")).to_be_visible()
    page.reload()
    expect(page.get_by_text("3 failed, 2 set aside")).to_be_visible()
    row = page.get_by_role("row", name="the charger was out")
    row.get_by_role("button", name="Evidence").click()
    page.get_by_role("button", name="Let it count again").click()
    page.keyboard.press("Escape")
    expect(page.get_by_text("3 failed, 1 set aside")).to_be_visible()


def test_the_half_done_study_goes_on_live(sample, open_page):
    page = open_page(f"/studies/{sample[ONE_GIG].id}/run")
    expect(page.get_by_text("37 of 80 runs done")).to_be_visible()
    page.keyboard.press("p")
    expect(page.get_by_text(re.compile("80 of 80 runs done"))).to_be_visible(timeout=60_000)
    page.keyboard.press("]")
    expect(page.get_by_text("Verdicts are read once")).to_have_count(0)
    page.keyboard.press("e")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("half the error of the reading before it")
    dialog.get_by_label("Repeats of each").fill("1")
    page.keyboard.press("Enter")
    expect(dialog).to_have_count(0)
    page.keyboard.press("[")
    expect(page.get_by_text("80 of 84 runs done")).to_be_visible()


def test_a_failed_run_shows_why(sample, open_page):
    page = open_page(f"/studies/{sample[HERBARIUM].id}/run")
    expect(page.get_by_test_id("run-failed")).to_have_count(3)
    page.get_by_test_id("run-failed").first.click()
    expect(page.get_by_role("dialog")).to_contain_text("hung: the desktop never came")


def test_a_bad_file_is_refused_with_its_faults_and_a_good_one_taken_in(
    address, open_page, tmp_path
):
    page = open_page("/studies", expects=["422"])
    bad, good = tmp_path / "bad.csv", tmp_path / "good.csv"
    head = "system,machine,metric,value,unit\n"
    bad.write_text(head + "V,L,boot.total,fast,s\n")
    good.write_text(
        head
        + "".join(
            f"{s},L,boot.total,{v + i / 9},s\n" for s, v in (("V", 5), ("Q", 9)) for i in range(8)
        )
    )
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.keyboard.press("t")
    page.get_by_label("Readings file").set_input_files(bad)
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("line 2, column 4: not a number: fast")
    page.get_by_label("Readings file").set_input_files(good)
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_test_id("answer")).to_contain_text("V is ahead of Q")


def test_a_study_is_planned_in_the_browser(bench, open_page):
    page = open_page("/studies", expects=["422"])
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.keyboard.press("n")
    page.get_by_role("textbox", name="The question").fill("Does more take longer?")
    for name in ("Osterfell Base on Tiny guest", "Osterfell Server on Tiny guest"):
        page.get_by_role("checkbox", name=name).check()
    page.get_by_role("spinbutton", name="Repeats").fill("2")
    page.locator("summary", has_text="More").click()
    page.get_by_label("When verdicts are read").select_option("after some blocks")
    page.get_by_label("After blocks").fill("1, 3")
    page.get_by_role("button", name="Start").click()
    expect(page.get_by_role("alert")).to_contain_text("must be at the last block, 2, not 3")
    page.get_by_label("After blocks").fill("1, 2")
    page.get_by_role("button", name="Start").click()
    expect(page.get_by_role("heading", name="Does more take longer?")).to_be_visible()
    expect(page).to_have_url(re.compile("/run$"))
    page.get_by_role("button", name="Stop now").click()
    expect(page.get_by_role("button", name="Run the study")).to_be_visible()
    bench.runner.join()


def test_a_verdict_leads_to_how_it_was_calculated(sample, open_page):
    page = open_page(findings_of(sample))
    link = page.get_by_role("link", name="How is this calculated?").first
    link.focus()
    page.keyboard.press("Enter")
    heading = page.get_by_role("heading", name="The verdict", exact=True)
    expect(heading).to_be_in_viewport()
    page.keyboard.press("Shift+S")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Studies")


def test_a_study_that_is_not_there_is_said_so(address, open_page):
    page = open_page("/studies/01a20a76-0000-7000-8000-000000000000/run", expects=["404"])
    expect(page.get_by_role("alert")).to_contain_text("no study 01a20a76")


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize(
    "page_name", ["list", "run", "findings", "methods", "glossary", "library", "thing"]
)
def test_axe_finds_nothing_serious(sample, bench, open_page, scheme, page_name):
    system = next(s for s in bench.things.all(Noun.SYSTEM) if s.name == "Varrow 12 Tarnwick")
    own = {"list": "/studies", "methods": "/methods", "glossary": "/glossary"}
    own |= {"library": "/library", "thing": f"/library/systems/{system.id}"}
    path = own.get(page_name, f"/studies/{sample[HERBARIUM].id}/{page_name}")
    page = open_page(path, color_scheme=scheme)
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    if page_name == "library":
        expect(page.get_by_role("link", name="Varrow 12 Tarnwick")).to_be_visible()
    if page_name == "findings":
        expect(page.get_by_test_id("answer")).to_be_visible()
        page.keyboard.press("r")
        expect(page.get_by_role("button", name="Evidence").first).to_be_visible()
    page.evaluate(AXE.read_text())
    assert serious_faults(page) == []


@pytest.mark.parametrize("page_name", ["run", "findings"])
def test_a_phones_width_needs_no_sideways_scrolling(sample, open_page, page_name):
    page = open_page(
        f"/studies/{sample[HERBARIUM].id}/{page_name}", viewport={"width": 390, "height": 844}
    )
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    expect(page.locator("svg.picture").nth(1)).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_fonts_are_ours_and_served_by_us(address, open_page):
    page = open_page("/studies")
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.wait_for_function("document.fonts.status === 'loaded'")
    loaded = page.evaluate(
        "[...document.fonts].filter(f => f.status === 'loaded').map(f => f.family)"
    )
    assert {name.strip('"') for name in loaded} == {
        "Bricolage Grotesque Variable",
        "Public Sans Variable",
    }
