"""A study goes out of one bench book into another, and back, by keys."""

import psycopg
from playwright.sync_api import expect

HERBARIUM = "Which edition boots the Herbarium laptop soonest?"


def held(bench, study):
    return {one.name: sorted(map(repr, one.rows)) for one in bench.packages.tables([study])}


def another_bench_book(bench, url):
    """The same server as if nothing had ever been measured on it, and it were another's."""
    names = ", ".join(f'"{one.name}"' for one in bench.packages.known())
    with psycopg.connect(url, autocommit=True) as link:
        link.execute(f"truncate {names} cascade")
        link.execute("update bench_book set id = gen_random_uuid()")


def handed_on(page, path):
    expect(page.get_by_role("heading", name=HERBARIUM)).to_be_visible()
    with page.expect_download() as handed:
        page.keyboard.press("x")
    handed.value.save_as(path)


def taken_in(page, path):
    page.keyboard.press("x")
    expect(page.get_by_role("heading", name="Packages")).to_be_visible()
    page.keyboard.press("t")
    chooser = page.get_by_label("Package file")
    expect(chooser).to_be_focused()
    chooser.set_input_files(path)
    page.get_by_role("button", name="Take it in").press("Enter")
    page.get_by_label("Taken in").get_by_role("link", name=HERBARIUM).press("Enter")


def test_a_study_goes_to_another_bench_book_and_back(
    open_page, sample, bench, throwaway_url, tmp_path
):
    key = sample[HERBARIUM].id
    first = open_page(f"/studies/{key}/findings")
    handed_on(first, tmp_path / "there.zip")
    before = held(bench, key)
    another_bench_book(bench, throwaway_url)
    there = open_page("/studies")
    expect(there.get_by_role("heading", name="Studies")).to_be_visible()
    taken_in(there, tmp_path / "there.zip")
    expect(there.get_by_text("taken in from")).to_be_visible()
    expect(there.get_by_text("Varrow 12 Tarnwick ahead by 2.4 s").first).to_be_visible()
    there.evaluate("document.activeElement.blur()")
    handed_on(there, tmp_path / "back.zip")
    another_bench_book(bench, throwaway_url)
    back = open_page("/studies")
    expect(back.get_by_role("heading", name="Studies")).to_be_visible()
    taken_in(back, tmp_path / "back.zip")
    expect(back.get_by_role("heading", name=HERBARIUM)).to_be_visible()
    assert held(bench, key) == before
