"""Files from machines, dropped on a study's page or chosen by keys."""

import json
import re
from uuid import uuid4

import pytest
from playwright.sync_api import expect

from haremile_probe.wire import Capture, CaptureReading, Evidence, Fault, dump_capture

HERBARIUM = "Which edition boots the Herbarium laptop soonest?"
DROP = """async (files) => {
  const held = new DataTransfer()
  for (const [name, text] of files) held.items.add(new File([text], name))
  for (const kind of ['dragover', 'drop']) {
    window.dispatchEvent(new DragEvent(kind, { dataTransfer: held, cancelable: true }))
  }
}"""


def capture(system="Varrow 12 Tarnwick", **change):
    made = Capture(
        id=str(uuid4()),
        made_at="2026-10-05T08:00:00+00:00",
        probe="0",
        asked="boot",
        machine="Herbarium laptop",
        system=system,
        outcome="done",
        conditions={"cores": "2"},
        readings=[CaptureReading("boot.initrd", 3.0, "s", "systemd")],
        evidence=[Evidence("boot-manager", "Version=252\n<b>bold</b>\n")],
        faults=[Fault("absent", "efi: <i>nothing</i>")],
    )
    return json.dumps({**json.loads(dump_capture(made)), **change})


@pytest.fixture
def run_page(sample):
    return f"/studies/{sample[HERBARIUM].id}/run"


def test_dropped_captures_are_previewed_placed_and_taken_in_once(open_page, run_page):
    page = open_page(run_page)
    expect(page.get_by_role("heading", name=HERBARIUM)).to_be_visible()
    fits, stray = capture(), capture("Osterfell Base")
    page.evaluate(DROP, [["fits.json", fits], ["stray.json", stray]])
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Contender of fits.json")).to_have_value("1")
    button = dialog.get_by_role("button", name="Say whose the one without a contender is")
    expect(button).to_be_disabled()
    expect(dialog.get_by_text("1 thing it could not read").first).to_be_visible()
    dialog.get_by_label("Contender of stray.json").select_option(label="Varrow 12 Thistlow")
    dialog.get_by_role("button", name="Import 2 captures").click()
    expect(dialog).to_have_count(0)
    page.keyboard.press("]")
    expect(page.get_by_text("Initial RAM disk")).to_be_visible()
    page.evaluate(DROP, [["fits.json", fits]])
    expect(dialog.get_by_text("here already", exact=True)).to_be_visible()
    expect(dialog.get_by_role("button", name="All of it is here already")).to_be_disabled()


def test_keys_alone_take_a_file_in(open_page, run_page, tmp_path):
    path = tmp_path / "boot.json"
    path.write_text(capture())
    page = open_page(run_page)
    expect(page.get_by_role("heading", name=HERBARIUM)).to_be_visible()
    page.keyboard.press("t")
    chooser = page.get_by_label("Files from machines")
    expect(chooser).to_be_focused()
    chooser.set_input_files(path)
    button = page.get_by_role("button", name="Import 1 capture")
    expect(button).to_be_enabled()
    button.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_a_file_that_is_none_is_refused_in_words_and_nothing_is_kept(open_page, run_page):
    page = open_page(run_page, expects=("422",))
    expect(page.get_by_role("heading", name=HERBARIUM)).to_be_visible()
    page.evaluate(DROP, [["torn.json", capture()[:200]], ["odd.json", capture(asked="dance")]])
    alert = page.get_by_role("dialog").get_by_role("alert")
    expect(alert).to_contain_text("torn.json: the capture is not JSON")
    expect(alert).to_contain_text("odd.json: unknown procedure: dance")
    expect(page.get_by_role("button", name=re.compile("Choose files"))).to_be_disabled()


def test_markup_in_evidence_is_shown_as_text(open_page, run_page):
    page = open_page(run_page)
    expect(page.get_by_role("heading", name=HERBARIUM)).to_be_visible()
    page.evaluate(DROP, [["boot.json", capture()]])
    page.get_by_text("1 thing it could not read").click()
    expect(page.get_by_text("absent: efi: <i>nothing</i>")).to_be_visible()


def test_captures_of_two_systems_begin_a_study(open_page, sample, tmp_path):
    for number, system in enumerate(("Osterfell Base", "Quillfern 8")):
        (tmp_path / f"{number}.json").write_text(capture(system))
    page = open_page("/studies")
    expect(page.get_by_role("heading", name="Studies")).to_be_visible()
    page.keyboard.press("t")
    chooser = page.get_by_label("Readings file or captures")
    chooser.set_input_files([tmp_path / "0.json", tmp_path / "1.json"])
    page.get_by_label("The question").fill("Which initial RAM disk is quicker?")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_role("heading", name="Which initial RAM disk is quicker?")).to_be_visible()


WIDE = (
    b"Distro;Boot time (s);RAM MiB;Remark\n"
    + b"".join(b"Varrow 12;2%d,4;51%d;\n" % (n, n) for n in range(6))
    + b"".join(b"Quillfern 8;1%d,2;49%d;\n" % (n, n) for n in range(6))
)


def choose_table(page):
    page.get_by_role("button", name="Import readings").first.press("Enter")
    page.get_by_label("Readings file or captures").set_input_files(
        [{"name": "mine.csv", "mimeType": "text/csv", "buffer": WIDE}]
    )


def test_a_table_of_ones_own_is_explained_and_remembered(open_page):
    page = open_page("/studies")
    choose_table(page)
    expect(page.get_by_role("button", name="Still to be said: machine")).to_be_disabled()
    expect(page.get_by_label("Meaning of Boot time (s)")).to_have_value("measure:boot.total")
    expect(page.get_by_label("Meaning of Remark")).to_have_value("")
    page.get_by_label("machine", exact=True).fill("Herbarium laptop")
    page.keyboard.press("Enter")
    expect(page.get_by_text("RAM MiB as memory.used in MiB")).to_be_visible()
    page.get_by_role("button", name="Show the findings").press("Enter")
    expect(page.locator(".headline").first).to_contain_text("Quillfern 8")
    page.goto(page.url.partition("/studies")[0] + "/studies")
    choose_table(page)
    expect(page.get_by_text("They are read as you said last time")).to_be_visible()
    expect(page.get_by_role("button", name="Import", exact=True)).to_be_enabled()
