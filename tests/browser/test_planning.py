"""The list of studies and a plan before its first run, by keyboard."""

import re
from uuid import uuid4

from playwright.sync_api import expect

from haremile.core.records.study import Machine, StudyState
from haremile.usecases.plan import checked_plan
from haremile_probe.signing import name_of, secret_of
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


def kept(page):
    """What was typed is with the server."""
    told = page.get_by_role("status", name="Whether it is kept")
    expect(told).to_have_text("draft, kept as you type")


def question(page):
    return page.get_by_role("textbox", name="The question")


def begun(open_page, **options):
    page = open_page("/studies", **options)
    expect(page.locator("a.study").first).to_be_focused()  # from then on keys are heard
    page.keyboard.press("n")
    expect(question(page)).to_be_focused()
    return page


def test_a_plan_is_told_what_it_will_tell_while_it_is_typed(open_page, sample):
    page = begun(open_page)
    for name in ("Varrow 12 Tarnwick", "Marlstone 26.1 Mossgate"):
        page.get_by_role("checkbox", name=f"{name} on One-gig guest").press("Space")
    told = page.get_by_role("region", name="What it will tell")
    expect(told).to_contain_text("Tells power-on to ready apart from")
    expect(page.get_by_role("region", name="What it costs")).to_contain_text("24 runs")
    before = told.inner_text()
    page.get_by_role("button", name="Publish 30").press("Enter")
    expect(page.get_by_role("region", name="What it costs")).to_contain_text("60 runs")
    expect(told).not_to_have_text(before)
    page.get_by_role("spinbutton", name="Repeats").fill("2")
    expect(told).to_contain_text("Too few repeats for any verdict")
    matters = page.get_by_role("region", name="What matters")
    matters.get_by_role("textbox", name="Power-on to ready: amount that matters, s").fill("3")
    page.get_by_role("button", name="Usual 12").press("Enter")
    expect(told).to_contain_text(re.compile("apart from [4-9]"))
    expect(page.get_by_role("region", name="Fair start")).to_contain_text("kernel")


def test_a_draft_is_kept_over_a_reload_and_while_the_server_is_away(open_page, sample):
    page = begun(open_page)
    page.keyboard.type("Which of the two is quicker on one gigabyte?")
    page.get_by_role("checkbox", name="Varrow 12 Tarnwick on One-gig guest").press("Space")
    kept(page)
    page.reload()
    expect(question(page)).to_have_value("Which of the two is quicker on one gigabyte?")
    chosen = page.get_by_role("checkbox", name="Varrow 12 Tarnwick on One-gig guest")
    expect(chosen).to_be_checked()


def test_what_is_typed_while_the_server_is_away_is_kept_when_it_is_back(open_page, sample):
    page = begun(open_page, expects=("Failed to load resource",))
    kept(page)
    page.route("**/draft", lambda route: route.abort())
    page.keyboard.type("Typed in the dark?")
    expect(page.get_by_role("alert")).to_contain_text("the server does not answer")
    page.unroute("**/draft")
    kept(page)
    page.reload()
    expect(question(page)).to_have_value("Typed in the dark?")


def test_what_a_plan_still_needs_is_said_and_visits_and_looks_are_kept(open_page, sample):
    page = begun(open_page)
    page.get_by_role("button", name="Start").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("its question, a contender")
    page.locator("summary", has_text="More").press("Enter")
    page.get_by_role("combobox", name="Order").select_option("visits")
    read = page.get_by_role("combobox", name="When verdicts are read")
    read.select_option("after some blocks")
    page.get_by_role("textbox", name="After blocks").fill("6, 12")
    page.get_by_role("textbox", name="Tags").fill("field stations")
    page.get_by_role("checkbox", name="Idle").press("Space")
    page.get_by_role("button", name="Add a launch").press("Enter")
    page.get_by_role("textbox", name="Application", exact=True).fill("Coppicer")
    page.get_by_role("button", name="Add a ramp").press("Enter")
    page.get_by_role("textbox", name="Application that is loaded").fill("Wayfarrow")
    page.get_by_role("textbox", name="What it opens, in turns").fill("text, sheet")
    kept(page)
    page.reload()
    launched = page.get_by_role("textbox", name="Application", exact=True)
    expect(launched).to_have_value("Coppicer")
    expect(page.get_by_role("textbox", name="What it opens, in turns")).to_have_value("text, sheet")
    expect(page.get_by_role("textbox", name="Tags")).to_have_value("field stations")
    page.locator("summary", has_text="More").press("Enter")
    expect(page.get_by_role("combobox", name="Order")).to_have_value("visits")
    expect(page.get_by_role("textbox", name="After blocks")).to_have_value("6, 12")
    read.select_option("after every block")
    page.get_by_role("spinbutton", name="Repeats").fill("9")
    kept(page)
    page.reload()
    page.locator("summary", has_text="More").press("Enter")
    expect(read).to_have_value("every")


def test_a_plan_is_duplicated_as_a_draft(open_page, bench):
    plan = checked_plan("Which is lighter?", [install("A"), install("B")], 3, seed=4)
    study = bench.studies.create(plan)
    page = open_page(f"/studies/{study.id}/run")
    page.get_by_role("button", name="More").press("Enter")
    page.get_by_role("menuitem", name="Duplicate the plan").press("Enter")
    page.get_by_label("The question").fill("Which is lighter now?")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Which is lighter now?")
    expect(page.get_by_role("checkbox", name="A on Bench")).to_be_checked()
    expect(page.get_by_role("spinbutton", name="Repeats")).to_have_value("3")
    states = {one.title: one.state for one in bench.studies.digests()}
    assert states["Which is lighter now?"] is StudyState.DRAFT


def test_the_plan_of_a_study_stands_once_it_is_started(open_page, sample):
    study = sample["Which edition boots the Herbarium laptop soonest?"]
    page = open_page(f"/studies/{study.id}/run")
    expect(page.get_by_role("link", name="Plan page")).to_be_visible()
    page.keyboard.press("[")
    plan = page.get_by_role("region", name="The plan")
    expect(plan).to_contain_text("20 of each contender")
    expect(plan).to_contain_text("drawn from seed 4128")
    expect(page.get_by_role("button", name="Start")).to_have_count(0)


def test_from_an_empty_bench_book_to_a_claim_against_what_was_measured(open_page, bench):
    page = open_page("/library")
    expect(page.get_by_role("link", name=re.compile("^Osterfell Base"))).to_be_visible()
    page.keyboard.press("n")
    page.get_by_role("textbox", name="Name").fill("Osterfell of my own")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Osterfell of my own")
    page.keyboard.press("c")
    page.get_by_role("combobox", name="What is claimed").select_option("least_memory")
    page.get_by_label("Amount").fill("64")
    page.get_by_role("combobox", name="Unit").select_option("MiB")
    page.get_by_label("Source").fill("the makers’ page")
    expect(page.get_by_role("button", name="Note it")).to_be_enabled()
    page.keyboard.press("Enter")
    expect(page.get_by_text("not measured yet")).to_be_visible()
    page.get_by_role("combobox", name="Image").select_option("osterfell-base")
    page.get_by_role("button", name="State it").press("Enter")
    expect(page.get_by_role("button", name="Stated")).to_be_visible()
    page.get_by_role("link", name="Library", exact=True).first.press("Enter")
    expect(page.get_by_role("link", name=re.compile("^Osterfell Base"))).to_be_visible()
    page.keyboard.press("v")
    page.get_by_role("textbox", name="Memory, MiB").fill("96, 192")
    page.get_by_role("button", name="Make them").press("Enter")
    expect(page.get_by_role("link", name=re.compile("^Guest, 192 MiB"))).to_be_visible()
    page.get_by_role("link", name=re.compile("^Osterfell of my own")).press("Enter")
    page.get_by_role("button", name="Plan it").press("Enter")
    expect(question(page)).to_have_value(re.compile("does Osterfell of my own keep it"))
    machine = page.get_by_role("combobox", name="Add a machine")
    machine.select_option(label="Guest, 192 MiB")
    page.get_by_role("checkbox", name="Osterfell of my own on Guest, 192 MiB").press("Space")
    expect(page.get_by_role("region", name="What it will tell")).to_contain_text("One contender")
    expect(page.get_by_role("checkbox", name="Least memory")).to_be_checked()
    page.get_by_role("textbox", name="Sizes tried, MiB").fill("64, 96")
    page.get_by_role("spinbutton", name="Boots the answer stands").fill("1")
    page.get_by_role("spinbutton", name="Repeats").fill("1")
    kept(page)
    page.get_by_role("button", name="Start").press("Enter")
    expect(page).to_have_url(re.compile("/run$"))
    expect(page.get_by_text("1 of 1 run done")).to_be_visible(timeout=90_000)
    page.keyboard.press("]")
    expect(page.get_by_text("can still pass").first).to_be_visible()
    expect(page.get_by_text("usability not measured").first).to_be_visible()
    page.goto(page.url.partition("/studies")[0] + "/library")
    page.get_by_role("link", name=re.compile("^Osterfell of my own")).press("Enter")
    expect(page.locator(".tag", has_text="not kept")).to_be_visible()
    bench.runner.join()


def test_a_system_is_proved_live_and_an_image_that_is_none_is_refused(open_page, bench):
    page = open_page("/library", expects=("Failed to load resource",))
    expect(page.get_by_role("link", name=re.compile("^Osterfell Base"))).to_be_visible()
    page.keyboard.press("v")
    page.get_by_role("textbox", name="Memory, MiB").fill("192")
    page.get_by_role("button", name="Make it").press("Enter")
    page.get_by_role("link", name=re.compile("^Osterfell Base")).press("Enter")
    page.get_by_role("button", name="Bring an image").press("Enter")
    nothing = {"name": "none.iso", "mimeType": "application/octet-stream", "buffer": b"nothing"}
    page.get_by_label("Image file").set_input_files(nothing)
    page.get_by_role("button", name="Send it").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("none.iso is not what its name says")
    page.get_by_role("combobox", name="Image").select_option("osterfell-base")
    page.get_by_role("button", name="State it").press("Enter")
    page.get_by_role("button", name="Prove it").press("Enter")
    proof = page.get_by_role("region", name="The proof")
    expect(proof.get_by_label("Its last lines")).to_contain_text("HM-MARK", timeout=60_000)
    expect(proof).to_contain_text("ready seen after", timeout=60_000)


def test_a_computer_is_enrolled_with_a_key_that_is_shown_once(open_page, bench):
    bench.library.ensure_machine(Machine("Herbarium laptop", "physical"))
    page = open_page("/library")
    page.get_by_role("link", name=re.compile("^Herbarium laptop")).press("Enter")
    page.get_by_role("button", name="Enrol this computer").press("Enter")
    key = page.locator(".secret").inner_text()
    page.get_by_role("button", name="Done").press("Enter")
    expect(page.get_by_text("Waiting for its first sign")).to_be_visible()
    _, machine, is_revoked = bench.machines.key_named(name_of(secret_of(key)))
    assert (machine, is_revoked) == ("Herbarium laptop", False)
    identity = uuid4()
    bench.machines.enrol("Herbarium laptop", "Varrow 12", identity)
    bench.machines.note_sign("Herbarium laptop", identity, "boot 1", is_leaving=False)
    expect(page.get_by_text("Its first sign is there")).to_be_visible()
    page.get_by_role("button", name="Revoke its 1 key").press("Enter")
    page.get_by_label("Type its name").fill("Herbarium laptop")
    page.keyboard.press("Enter")
    expect(page.get_by_text(", revoked ")).to_be_visible()
    assert bench.machines.key_named(name_of(secret_of(key)))[2]


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
