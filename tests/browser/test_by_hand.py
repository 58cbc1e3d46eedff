"""Timing, typing, pasting and a person's sheet, in the real browser."""

import shutil
import subprocess

import numpy as np
import pytest
from playwright.sync_api import expect

from haremile.core.records.study import Install, Machine, RunState, StudyState, System
from haremile.demo.by_hand import STICKS
from haremile.formats.captures import parse_stored
from haremile.usecases.plan import checked_plan
from helpers import AXE, DATA, ROOT, entry_path, serious_faults, served

KEPT_OFFLINE = """async () => {
  const kept = await (await caches.open('haremile-timing')).keys()
  return kept.length > 5 && kept.some(one => one.url.endsWith('/api/by-hand/marks'))
}"""
PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
FRAMES, RATE, WIDTH, HEIGHT = 75, 25, 640, 360
TURNS = (20, 35)
"""At which frame each half of the test's recording turns bright."""


def set_up(page, person="Ida", systems=("Varrow 12", "Quillfern 8")):
    expect(page.get_by_label("Marks")).to_have_value("To the desktop")
    page.get_by_label("Who times").fill(person)
    for number, system in enumerate(systems, start=1):
        page.get_by_label("System").fill(system)
        page.get_by_label("Machine").fill("Bench")
        page.get_by_label("Machine").press("Enter")
        expect(page.get_by_role("button", name=f"{system}: mark power on")).to_contain_text(
            str(number)
        )
    page.get_by_role("heading", name="Timing").click()


def times_of(bench):
    (digest,) = bench.studies.digests()
    readings = bench.readings.readings(digest.id, "boot.total")
    return digest, {reading.lane_no: reading for reading in readings}


def test_a_race_of_two_lanes_by_keys_over_a_reload_and_without_the_network(open_page, bench):
    page = open_page("/timing", expects=("ERR_INTERNET_DISCONNECTED", "Failed to load resource"))
    set_up(page)
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Varrow 12: mark desktop")).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_role("button", name="Varrow 12: done")).to_be_visible()
    page.keyboard.press("Backspace")
    expect(page.get_by_role("button", name="Varrow 12: mark desktop")).to_be_visible()
    page.wait_for_function(KEPT_OFFLINE)
    page.context.set_offline(True)
    page.reload()
    expect(page.get_by_text("the page was loaded anew")).to_be_visible()
    for key, system in (("1", "Varrow 12"), ("2", "Quillfern 8")):
        page.keyboard.press(key)
        expect(page.get_by_role("button", name=f"{system}: done")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_text("kept here until the server takes them")).to_be_visible()
    assert bench.studies.digests() == []
    page.context.set_offline(False)
    expect(page.get_by_text("Handed in.")).to_be_visible()
    _, found = times_of(bench)
    assert set(found) == {1, 2}
    assert all(one.method == "hand" and one.value > 0 for one in found.values())
    assert found[1].value < found[2].value
    assert found[1].conditions["person"] == "Ida"
    page.get_by_role("link", name="See the findings").click()
    expect(page.get_by_role("heading", name="Timed by hand")).to_be_visible()


def test_a_server_that_goes_and_comes_back_loses_no_mark(bench, throwaway_url, browser):
    with served(bench, throwaway_url, bench.settings.web) as address:
        context = browser.new_context()
        page = context.new_page()
        page.goto(address + entry_path(bench))
        page.goto(f"{address}/timing")
        set_up(page)
        page.keyboard.press(" ")
    for key, system in (("1", "Varrow 12"), ("2", "Quillfern 8")):
        page.keyboard.press(key)
        expect(page.get_by_role("button", name=f"{system}: done")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_text("kept here until the server takes them")).to_be_visible()
    port = int(address.rpartition(":")[2])
    with served(bench, throwaway_url, bench.settings.web, port):
        expect(page.get_by_text("Handed in.")).to_be_visible()
        _, found = times_of(bench)
        assert set(found) == {1, 2}
        context.close()


def test_a_lane_timed_by_touch_on_a_phone(open_page, bench):
    page = open_page("/timing", **PHONE)
    set_up(page, systems=("Varrow 12",))
    lane = page.get_by_role("button", name="Varrow 12: mark power on")
    assert lane.bounding_box()["width"] > 300
    lane.tap()
    page.get_by_role("button", name="Varrow 12: mark desktop").tap()
    page.get_by_role("button", name="Hand in, and on").tap()
    expect(page.get_by_text("Handed in.")).to_be_visible()
    assert len(times_of(bench)[1]) == 1
    targets = page.get_by_role("main").get_by_role("button").all()
    small = [one.inner_text() for one in targets if one.bounding_box()["height"] < 44]
    assert small == []


def test_a_grid_is_typed_by_keyboard_undone_and_kept(open_page, bench):
    page = open_page("/typing")
    page.get_by_label("The question").fill("Which boots sooner?")
    page.get_by_label("Who read them").fill("Ida")
    for _ in range(4):
        page.get_by_role("button", name="One more contender").click()
    for number in range(1, 7):
        page.get_by_label(f"Contender {number}", exact=True).fill(f"System {number}")
    for column in range(1, 7):
        page.get_by_label(f"System {column}, repeat 1", exact=True).focus()
        for row in range(10):
            page.keyboard.type(f"{40 + column + row % 3} s")
            page.keyboard.press("Enter")
    cell = page.get_by_label("System 6, repeat 10", exact=True)
    expect(cell).to_have_value("46 s")
    cell.focus()
    page.keyboard.type("x")
    expect(cell).to_have_value("46 sx")
    page.keyboard.press("Control+z")
    expect(cell).to_have_value("46 s")
    page.get_by_label("System 1, repeat 2", exact=True).fill("x black screen")
    page.get_by_role("button", name="Keep 60 figures").click()
    expect(page.get_by_role("heading", name="Which boots sooner?")).to_be_visible()
    (digest,) = bench.studies.digests()
    assert (digest.runs, digest.failed) == (60, 1)
    readings = bench.readings.readings(digest.id, "boot.total")
    assert {(one.method, one.resolution) for one in readings} == {("typed", 1.0)}


@pytest.fixture
def sheet(bench, address):
    """A person's study of idle memory on one laptop."""
    installs = [
        bench.library.ensure(Install(System(name), Machine("Laptop"), rig="person"))
        for name in ("Varrow 12", "Quillfern 8")
    ]
    study = bench.studies.create(checked_plan("Which?", installs, 1, 1, procedures=("idle",)))
    bench.runner.start(study.id)
    yield study
    bench.conductor.cut(study.id)
    bench.runner.join()


def test_a_persons_sheet_on_a_phone_to_its_findings(open_page, bench, sheet):
    page = open_page("/timing", **PHONE)
    page.get_by_label("Who times").fill("Ida")
    for text in ("505M", "612M"):
        page.get_by_role("button", name="Type what you read").tap()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Idle memory", exact=True).fill(text)
        expect(dialog.get_by_text(f"understood as {text[:3]} MiB")).to_be_visible()
        dialog.get_by_role("button", name="Hand it in").tap()
        expect(dialog).to_be_hidden()
        expect(page.get_by_text("kept here until")).to_be_hidden()
    while bench.studies.get(sheet.id).state is not StudyState.DONE:
        pass
    found = {one.value / 2**20 for one in bench.readings.readings(sheet.id, "memory.used")}
    assert found == {505.0, 612.0}
    page.goto(page.url.replace("/timing", f"/studies/{sheet.id}/findings"))
    expect(page.get_by_role("heading", name="Which?")).to_be_visible()


def test_a_run_that_was_skipped_is_done_again_from_the_sheet(open_page, bench, sheet):
    page = open_page("/timing", **PHONE)
    page.get_by_label("Who times").fill("Ida")
    expect(page.get_by_text("Have ready: the machine started and left alone")).to_be_visible()
    page.get_by_role("button", name="Skip").tap()
    page.get_by_role("button", name="no time").tap()
    page.get_by_role("dialog").get_by_role("button", name="Skip").tap()
    again = page.get_by_role("button", name="Do it again")
    expect(again).to_be_visible()
    while not any(run.state is RunState.VOID for run in bench.studies.runs(sheet.id)):
        pass
    again.tap()
    expect(again).to_be_hidden()
    assert all(run.state is not RunState.VOID for run in bench.studies.runs(sheet.id))


def test_marks_of_ones_own_and_a_photograph(open_page, bench, tmp_path):
    page = open_page("/timing")
    expect(page.get_by_label("Marks")).to_have_value("To the desktop")
    page.get_by_role("button", name="Marks of your own").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name of the list").fill("To the post")
    dialog.get_by_label("Mark 2", exact=True).fill("Post open")
    dialog.get_by_role("button", name="Use it").click()
    expect(dialog).to_be_hidden()
    page.get_by_label("Who times").fill("Ida")
    page.get_by_label("System").fill("Varrow 12")
    page.get_by_label("Machine").fill("Bench")
    page.get_by_label("Machine").press("Enter")
    page.get_by_role("heading", name="Timing").click()
    page.keyboard.press("1")
    page.get_by_label("Photograph of Varrow 12").set_input_files(
        ROOT / "docs" / "screenshots" / "timing.png"
    )
    expect(page.get_by_role("button", name="power on: open")).to_be_visible()
    page.get_by_role("button", name="Note").click()
    page.get_by_role("dialog").get_by_label("In plain words").fill("another stick")
    page.keyboard.press("Enter")
    expect(page.get_by_text("another stick")).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_role("button", name="Varrow 12: done")).to_be_visible()
    page.get_by_role("button", name="Hand in, and on").click()
    expect(page.get_by_text("Handed in.")).to_be_visible()
    (digest,) = bench.studies.digests()
    (reading,) = bench.readings.readings(digest.id, "own.time.Post_open")
    assert (reading.method, reading.unit) == ("hand", "s")
    evidence = parse_stored(*_kept(bench, reading.run_id)).evidence
    shown = next(one.text for one in evidence if one.name == "photograph: power on")
    assert shown.startswith("data:image/jpeg;base64,")
    assert "another stick" in {one.text for one in evidence if one.name == "note"}


def _kept(bench, run_id):
    capture = bench.readings.capture_of_run(run_id)
    return capture.kind, capture.body


def test_a_figure_from_elsewhere_is_quoted_by_keyboard_and_taken_out_again(
    sample, bench, open_page
):
    study = sample[STICKS.title].id
    page = open_page(f"/studies/{study}/findings")
    quoted = page.get_by_role("list", name="Quoted from elsewhere").get_by_role("listitem")
    expect(quoted).to_have_count(1)
    page.keyboard.press("q")
    dialog = page.get_by_role("dialog")
    for text in ("33 s", "", "The Bench Letter", "2025-06"):
        page.keyboard.type(text)
        page.keyboard.press("Tab")
    page.keyboard.press("Shift+Tab")
    page.keyboard.press("Enter")
    expect(dialog).to_be_hidden()
    expect(quoted).to_have_count(2)
    expect(quoted.last).to_contain_text("33.0 s (The Bench Letter, 2025-06)")
    expect(page.get_by_text("quoted from elsewhere")).to_be_visible()
    quoted.last.get_by_role("button", name="Take it out").click()
    expect(quoted).to_have_count(1)
    page.get_by_role("button", name="Undo").click()
    expect(quoted).to_have_count(2)
    assert len(bench.beside.quoted(study)) == 2


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize("path", ["/timing", "/typing", "/pasted", "/recording"])
def test_axe_finds_nothing_serious_in_what_goes_by_hand(open_page, scheme, path):
    page = open_page(path, color_scheme=scheme)
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.evaluate(AXE.read_text())
    assert serious_faults(page) == []


def test_a_text_pasted_on_the_list_of_studies_becomes_readings(open_page, bench):
    page = open_page("/studies")
    expect(page.get_by_role("heading", name="No study yet", exact=False)).to_be_visible()
    text = (DATA / "pasted" / "session.txt").read_text()
    page.evaluate(
        """text => {
          const data = new DataTransfer()
          data.setData('text/plain', text)
          const pasted = { clipboardData: data, bubbles: true, cancelable: true }
          document.body.dispatchEvent(new ClipboardEvent('paste', pasted))
        }""",
        text,
    )
    expect(page.get_by_text("total less available")).to_be_visible()
    expect(page.get_by_text("1 line not understood")).to_be_visible()
    page.get_by_label("System").fill("Varrow 12")
    page.get_by_label("Machine").fill("Laptop")
    page.get_by_label("Who read it").fill("Ida")
    page.get_by_role("button", name="Keep 2 readings").click()
    expect(page.get_by_role("heading", name="Varrow 12, as pasted")).to_be_visible()
    (digest,) = bench.studies.digests()
    assert set(bench.readings.metrics_read(digest.id)) == {"memory.used", "memory.swap_used"}


@pytest.fixture
def recording(tmp_path):
    """Two panels, each of which turns bright at a known frame."""
    frames = tmp_path / "panels.y4m"
    with frames.open("wb") as file:
        file.write(f"YUV4MPEG2 W{WIDTH} H{HEIGHT} F{RATE}:1 Ip A1:1 C420\n".encode())
        grain = np.random.default_rng(5).integers(0, 24, (HEIGHT, WIDTH), np.uint8)
        for number in range(FRAMES):
            light = np.full((HEIGHT, WIDTH), 20, np.uint8)
            for half, turn in enumerate(TURNS):
                if number >= turn:
                    light[:, half * WIDTH // 2 : (half + 1) * WIDTH // 2] = 220
            grey = np.full(HEIGHT * WIDTH // 2, 128, np.uint8)
            light += grain  # a still is as large as one of a real screen
            file.write(b"FRAME\n" + light.tobytes() + grey.tobytes())
    made = tmp_path / "panels.webm"
    encoder = shutil.which("vpxenc")
    command = [encoder, "--codec=vp8", "--good", "--cpu-used=4", "--kf-max-dist=10"]
    subprocess.run([*command, "-o", str(made), str(frames)], check=True, capture_output=True)
    return made


@pytest.mark.long
def test_a_recording_is_timed_to_within_one_frame(open_page, bench, recording):
    page = open_page("/recording")
    page.get_by_label("Who marks").fill("Ida")
    for system in ("Varrow 12", "Quillfern 8"):
        page.get_by_label("System").fill(system)
        page.get_by_label("Machine").fill("Bench")
        page.get_by_label("Machine").press("Enter")
    page.get_by_label("Video file").set_input_files(recording)
    expect(page.get_by_text("frames 40.0 ms apart")).to_be_visible()
    expect(page.get_by_role("timer")).to_have_text("0:00.000")
    page.get_by_role("heading", name="From a recording").click()
    page.keyboard.press("1")
    page.keyboard.press("2")
    for frame in range(1, max(TURNS) + 1):
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("timer")).to_have_text(f"0:{frame / RATE:06.3f}")
        if frame in TURNS:
            page.keyboard.press(str(TURNS.index(frame) + 1))
    page.get_by_role("button", name="Hand it in").click()
    expect(page.get_by_role("heading", name="From a recording", exact=False)).to_be_visible()
    expect(page.get_by_role("link", name="Findings page")).to_be_visible()
    _, found = times_of(bench)
    for lane, turn in enumerate(TURNS, start=1):
        assert abs(found[lane].value - turn / RATE) <= 1 / RATE
        assert found[lane].resolution == pytest.approx(1 / RATE, abs=1e-3)
        assert found[lane].method == "recording"
