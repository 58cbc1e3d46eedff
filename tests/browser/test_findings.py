"""Findings by keyboard: pictures, files that are kept, the race card."""

import re

import pytest
from playwright.sync_api import expect

HERBARIUM = "Which edition wakes the Herbarium laptop soonest?"


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
    for picture, says in (("parts", "Most of the difference lies in"), ("memory", "same instant"),
                          ("trade", "no other beats")):  # fmt: skip
        page.keyboard.press("o")
        expect(page).to_have_url(re.compile(f"picture={picture}"))
        expect(page.get_by_test_id("answer").first).to_contain_text(says)
    page.keyboard.press("o")
    expect(page.get_by_role("table")).to_contain_text("Quillfern")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_test_id("answer")).to_be_visible()


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
    assert set(tags.all_inner_texts()) == {"ahead"}


def test_a_kept_picture_holds_its_sentence_values_and_fonts(findings):
    page = findings()
    expect(page.get_by_role("button", name="Keep picture")).to_be_visible()
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
    box = page.locator(".two > :last-child").evaluate("e => e.clientWidth")
    assert body.startswith(b"\x89PNG")
    assert abs(width - 2 * box) <= 6
    with page.expect_download() as data:
        page.keyboard.press("d")
    lines = data.value.path().read_text().splitlines()
    assert lines[0].startswith("contender,machine,metric,value")
    assert len(lines) > 90


def test_with_and_without_is_one_key(findings):
    page = findings()
    page.keyboard.press("w")
    expect(page.get_by_text("With what was set aside.")).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_text("With what was set aside.")).to_be_hidden()


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
