"""A mistake is taken back, by keyboard."""

import re

from playwright.sync_api import expect

from haremile.usecases.import_readings import import_study

BODY = b"system,machine,metric,value,unit\n" + b"".join(
    b"%s,Laptop,boot.total,%.1f,s\n" % (system, base + i / 10)
    for system, base in ((b"Varrow 12", 10), (b"Quillfern 8", 14))
    for i in range(8)
)


def brought(bench):
    return import_study(bench.studies, bench.readings, "Which boots sooner?", BODY)


def choose(page, item):
    page.get_by_role("button", name="More").press("Enter")
    page.get_by_role("menuitem", name=item).press("Enter")


def test_a_study_is_renamed_and_the_old_name_comes_back(open_page, bench):
    page = open_page(f"/studies/{brought(bench).id}/run")
    expect(page.get_by_role("heading", level=1)).to_have_text("Which boots sooner?")
    page.keyboard.press("F2")
    page.get_by_label("The question").fill("Which is sooner?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Which is sooner?")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Which boots sooner?")
    page.keyboard.press("h")
    expect(page.get_by_text("renamed a study")).to_have_count(2)


def test_a_study_is_put_away_brought_back_and_at_last_deleted(open_page, bench):
    page = open_page(f"/studies/{brought(bench).id}/run")
    choose(page, "Put away")
    page.get_by_role("button", name="Bring back").press("Enter")
    expect(page.get_by_text("This study is put away")).to_have_count(0)
    choose(page, "Put away")
    page.get_by_role("button", name="Delete for good").press("Enter")
    page.get_by_label("Type its title again").fill("Which boots sooner?")
    page.keyboard.press("Enter")
    expect(page.get_by_text("No study yet")).to_be_visible()
    assert bench.studies.digests(put_away=True) == []


def test_a_file_is_put_away_and_comes_back(open_page, bench):
    study = brought(bench)
    page = open_page(f"/studies/{study.id}/run")
    choose(page, "Files brought in")
    page.get_by_role("button", name="Put away").press("Enter")
    expect(page.get_by_role("button", name="Bring back")).to_be_visible()
    assert bench.readings.readings(study.id) == []
    page.get_by_role("button", name="Bring back").press("Enter")
    expect(page.get_by_role("button", name="Put away")).to_be_visible()
    assert len(bench.readings.readings(study.id)) == 16


def test_a_reading_is_corrected_and_taken_back(open_page, bench):
    page = open_page(f"/studies/{brought(bench).id}/findings")
    expect(page.locator(".headline").first).to_contain_text("Varrow 12")
    page.keyboard.press("r")
    page.get_by_role("button", name="Evidence").first.press("Enter")
    page.get_by_role("button", name="Correct the value").press("Enter")
    page.get_by_label("Right value, s").fill("10.25")
    page.get_by_label(re.compile("^Because")).fill("a slip of the pen")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Corrected by hand; before: 10.000 s")).to_be_visible()
    page.get_by_role("button", name="Take the correction back").press("Enter")
    expect(page.get_by_text("Corrected by hand")).to_have_count(0)
    page.get_by_text("What was done to it").press("Enter")
    expect(page.get_by_text("took a correction back")).to_be_visible()
