"""Findings by keyboard: pictures, files that are kept, the race card."""

import re

import pytest
from playwright.sync_api import expect

from haremile.demo.ramps import GIGABYTE
from helpers import AXE, serious_faults

HERBARIUM = "Which edition boots the Herbarium laptop soonest?"
EVERYWHERE = "Does the candidate boot sooner on every machine?"


@pytest.fixture
def findings(sample, open_page):
    def opened(search="", **options):
        page = open_page(f"/studies/{sample[HERBARIUM].id}/findings{search}", **options)
        expect(page.locator(".verdicts").first).to_contain_text("Power-on to ready")
        return page

    return opened


def test_from_a_verdict_to_the_evidence_of_a_reading_in_five_keys(findings):
    page = findings()
    page.keyboard.press("r")
    page.get_by_role("button", name="Evidence").first.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("block")


def test_every_view_and_picture_is_a_key_away_and_in_the_address(findings):
    page = findings()
    for view, says in (("order", "in the order of the runs"), ("spread", "share of the runs")):
        page.keyboard.press("v")
        expect(page).to_have_url(re.compile(f"view={view}"))
        expect(page.locator("svg.picture text", has_text=says)).to_be_visible()
    for picture, says in (
        ("parts", "The largest difference that is decided lies in"),
        ("memory", "same instant"),
        ("trade", "no other beats"),
        ("failures", "failed in 3 of 20"),
    ):
        page.keyboard.press("o")
        expect(page).to_have_url(re.compile(f"picture={picture}"))
        expect(page.get_by_test_id("answer").first).to_contain_text(says)
    page.keyboard.press("o")
    expect(page.get_by_role("table")).to_contain_text("Quillfern")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_test_id("answer")).to_be_visible()


def test_pictures_over_machines_say_where_they_disagree(sample, open_page):
    page = open_page(f"/studies/{sample[EVERYWHERE].id}/findings?picture=over")
    expect(page.locator(".headline")).to_contain_text("they disagree")
    expect(page.locator("section svg.picture").first).to_contain_text(
        "the machines disagree: no mean"
    )
    page.keyboard.press("a")
    expect(page.get_by_role("table")).to_contain_text("Field-kit board")
    expect(page.get_by_role("tab", name="Before and after")).to_be_visible()
    page.keyboard.press("o")
    expect(page.locator(".headline")).to_contain_text("Newer")
    page.keyboard.press("o")
    expect(page.locator("option", has_text="block 1").first).to_be_attached()
    page.keyboard.press("a")
    expect(page.locator("section svg.picture").first).to_be_visible()
    expect(page).not_to_have_url(re.compile("as=table"))
    page.keyboard.press("n")
    expect(page).to_have_url(re.compile("boot="))
    expect(page.locator(".headline").first).to_contain_text("takes longest")
    expect(page.locator("section svg.picture").first).to_contain_text("field-sync.service")


def test_a_baseline_is_told_in_words_and_the_lanes_in_a_table(findings):
    page = findings()
    page.keyboard.press("b")
    words = page.get_by_role("list", name="Against Varrow 12 Thistlow")
    expect(words).to_contain_text("Varrow 12 Tarnwick against Varrow 12 Thistlow: typically")
    expect(page.get_by_test_id("notes")).to_contain_text("Readings gather around")
    page.keyboard.press("a")
    expect(page.get_by_role("table")).to_contain_text("baseline")
    page.keyboard.press("a")
    expect(page.locator("svg.picture").first).to_be_visible()


def test_a_verdict_is_unfolded_by_one_key(findings):
    page = findings()
    page.keyboard.press("i")
    shown = page.get_by_role("button", name="How it came to this")
    expect(shown).to_have_attribute("aria-expanded", "true")
    expect(page.locator("dd", has_text="the typical difference").first).to_be_visible()
    expect(page.locator("dd", has_text="Stated before the runs").first).to_be_visible()
    page.keyboard.press("i")
    expect(page.locator("dd", has_text="the typical difference")).to_have_count(0)


def test_means_and_noise_of_a_measure_are_unfolded_by_a_key_each(findings):
    page = findings()
    page.keyboard.press("u")
    expect(page.get_by_role("img", name="Between blocks:")).to_be_visible()
    expect(page.get_by_text("a second install of one system would")).to_be_visible()
    page.keyboard.press("m")
    table = page.get_by_role("table", name="Means and worst tenth")
    expect(table).to_contain_text("it takes 40 readings of each, not")
    page.keyboard.press("m")
    expect(table).to_have_count(0)


def test_what_forbids_a_comparison_is_put_up_with_for_a_printed_reason(findings):
    page = findings("?row=launch.settled%7CHerbarium+laptop%7Cprobe%7Cwarm%7CWayfarrow")
    expect(page.locator(".headline")).to_have_text("Not comparable: application version")
    page.get_by_label("Compare nevertheless, because").fill("each as it is shipped")
    page.get_by_role("button", name="Compare", exact=True).click()
    expect(page.get_by_test_id("answer")).to_contain_text("overridden: each as it is shipped")
    page.get_by_text("Fair start:").click()
    page.get_by_role("button", name="Compare no more").click()
    expect(page.locator(".headline")).to_have_text("Not comparable: application version")


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ("picture=nonsense", "There is no picture called “nonsense”"),
        ("picture=over", "This study has nothing for “Over machines”"),
        ("view=nonsense", "There is no view called “nonsense”; the lanes are shown."),
        ("view=machines", "This measure has nothing for the view “Every machine”"),
    ],
)
def test_an_address_that_asks_for_what_is_not_there_is_told_so(sample, open_page, asked, says):
    page = open_page(f"/studies/{sample[HERBARIUM].id}/findings?{asked}")
    expect(page.get_by_text(says)).to_be_visible()
    page.keyboard.press("o")
    expect(page.locator(".headline")).to_be_visible()


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_serious_in_any_picture(sample, open_page, scheme):
    page = open_page(f"/studies/{sample[EVERYWHERE].id}/findings", color_scheme=scheme)
    expect(page.locator("svg.picture").nth(1)).to_be_visible()
    page.evaluate(AXE.read_text())
    seen = []
    while "picture=card" not in page.url:
        expect(page.locator(".headline, table, article").first).to_be_visible()
        seen += [(page.url.partition("?")[2], fault) for fault in serious_faults(page)]
        page.keyboard.press("o")
    seen += serious_faults(page)
    assert seen == []


def test_verdicts_are_filtered_and_ranked_and_the_rank_stays(findings):
    page = findings()
    labels = page.locator(".verdicts .verdict .what")
    before = labels.nth(1).inner_text()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("+")
    expect(labels.nth(0)).to_have_text(before)
    page.reload()
    expect(labels.nth(0)).to_have_text(before)
    page.get_by_label("show").select_option("ahead")
    tags = page.locator(".verdicts button .tag")
    expect(tags.first).to_have_text("ahead")
    assert set(tags.all_inner_texts()) == {"ahead", "uses less"}


def test_a_kept_picture_holds_its_sentence_values_and_fonts(findings):
    page = findings()
    expect(page.locator("svg.picture").nth(2)).to_be_visible()
    sentence = page.get_by_test_id("answer").inner_text()
    with page.expect_download() as kept:
        page.keyboard.press("s")
    text = kept.value.path().read_text()
    assert sentence in text
    assert "base64," in text
    assert "Public Sans Variable" in text
    assert "var(--" not in text
    assert "Varrow 12 Tarnwick" in text
    with page.expect_download() as pixels:
        page.keyboard.press("Shift+S")
    body = pixels.value.path().read_bytes()
    width = int.from_bytes(body[16:20], "big")
    box = page.locator("main section").first.evaluate("e => e.clientWidth")
    assert body.startswith(b"\x89PNG")
    assert abs(width - 2 * box) <= 6
    with page.expect_download() as data:
        page.keyboard.press("d")
    lines = data.value.path().read_text().splitlines()
    assert lines[0].startswith("contender,machine,metric,value")
    assert len(lines) > 90


def test_with_and_without_is_one_key(findings):
    page = findings()
    row = page.locator("tbody tr").first
    page.keyboard.press("r")
    expect(row).to_be_focused()
    page.keyboard.press("Enter")
    page.get_by_label("Set this reading aside, because").fill("a lorry passed")
    page.get_by_role("button", name="Set aside").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_text("95 of 100 runs count")).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_label("with what was set aside")).to_be_checked()
    expect(page.get_by_text("97 of 100 runs count")).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_label("with what was set aside")).not_to_be_checked()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("96 of 100 runs count")).to_be_visible()


def test_back_takes_verdicts_and_pictures_one_by_one(findings):
    page = findings()
    first = page.locator(".headline").inner_text()
    page.keyboard.press("ArrowDown")
    expect(page.locator(".headline")).not_to_have_text(first)
    page.keyboard.press("o")
    expect(page).to_have_url(re.compile("picture=parts"))
    page.go_back()
    expect(page).not_to_have_url(re.compile("picture="))
    page.go_back()
    expect(page.locator(".headline")).to_have_text(first)


def test_the_race_card_is_one_file_that_opens_without_a_server(findings, browser, tmp_path):
    page = findings("?picture=card")
    expect(page.locator("article.card svg.picture").first).to_be_visible()
    with page.expect_download() as kept:
        page.keyboard.press("s")
    path = tmp_path / "card.html"
    path.write_bytes(kept.value.path().read_bytes())
    context = browser.new_context(offline=True)
    try:
        alone = context.new_page()
        asked = []
        alone.on("request", lambda request: asked.append(request.url))
        alone.goto(path.as_uri())
        expect(alone.get_by_role("heading", level=1)).to_have_text(HERBARIUM)
        expect(alone.locator("svg.picture").first).to_be_visible()
        assert [url for url in asked if not url.startswith(("file:", "data:"))] == []
    finally:
        context.close()


def test_load_says_who_carries_how_many_and_into_which_machine_they_fit(sample, open_page):
    page = open_page(f"/studies/{sample[GIGABYTE.title].id}/findings?picture=load")
    expect(page.get_by_text("Quillfern 9-rc Tarnwick carries 13 pages").first).to_be_visible()
    expect(page.get_by_text("all there is")).to_be_visible()
    smallest = page.get_by_role("region", name="Smallest sensible machine")
    rows = smallest.get_by_role("row")
    expect(rows.nth(3)).to_contain_text("does not fit")
    expect(rows.nth(2)).to_contain_text("seen: 6 of 6")
    expect(rows.nth(1)).to_contain_text("seen: 0 of 6")
    smallest.get_by_label("Pages").fill("4")
    expect(rows.nth(3)).to_contain_text("fits")
    expect(rows.nth(3)).not_to_contain_text("does not fit")
    assert "pages=4" in page.url
    smallest.get_by_label("Pages").fill("40")
    expect(rows.nth(1).get_by_text("does not fit")).to_have_count(2)
    smallest.get_by_role("button", name="Plan ramps on machines of other sizes").press("Enter")
    expect(page.get_by_role("textbox", name="Application that is loaded")).to_have_value(
        "wayfarrow"
    )
