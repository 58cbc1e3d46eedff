"""A measure of the tester's own, from its definition to a finding, by keyboard."""

import os
import pwd
import re
import shlex
import socket
import sys

from playwright.sync_api import expect

from haremile.core.records.study import Install, Machine, System

NAME = "Sort the seeds"
SHORT = "import time; print(%s + time.time() %% 0.01)"


def on_this_machine(system, seconds):
    """An install whose recipe has a command that gives the measure."""
    return Install(
        System(system),
        Machine("Bench", host=socket.gethostname()),
        rig="here",
        recipe={
            "measure.Sort_the_seeds": shlex.join([sys.executable, "-c", SHORT % seconds]),
            "probe.command": f"--user {pwd.getpwuid(os.geteuid()).pw_name}",
        },
    )


def test_a_measure_goes_from_its_definition_to_a_finding(open_page, bench):
    for system, seconds in (("Varrow 12", 2), ("Marlstone 26", 3)):
        bench.library.ensure(on_this_machine(system, seconds))
    page = open_page("/library")
    expect(page.get_by_role("link", name="Varrow 12")).to_be_visible()
    page.keyboard.press("d")
    page.get_by_label("What it is called").fill(NAME)
    page.get_by_label("Difference that matters, s").fill("a lot")
    expect(page.get_by_text("a positive number is wanted")).to_be_visible()
    page.get_by_label("Difference that matters, s").fill("0.2")
    page.get_by_label("Smallest step it tells, s").fill("0.001")
    page.keyboard.press("Enter")
    own = page.get_by_role("region", name="Measures of your own")
    expect(own).to_contain_text("seconds · less is better · 0.2 s matters · in steps of 0.001 s")
    own.get_by_role("button", name=f"Take out {NAME}").press("Enter")
    expect(own.get_by_role("listitem")).to_have_count(0)
    page.get_by_role("button", name="Undo").press("Enter")
    expect(own.get_by_role("listitem")).to_have_count(1)

    page.goto(page.url.replace("/library", "/studies"))
    expect(page.get_by_role("heading", level=1)).to_have_text("Studies")
    page.keyboard.press("n")
    page.get_by_role("textbox", name="The question").fill("Which sorts our seeds sooner?")
    for system in ("Varrow 12", "Marlstone 26"):
        page.get_by_role("checkbox", name=f"{system} on Bench").press("Space")
    page.get_by_role("checkbox", name="Boot").press("Space")
    page.get_by_role("checkbox", name=NAME).press("Space")
    page.get_by_role("spinbutton", name="Repeats").fill("6")
    matters = page.get_by_role("region", name="What matters")
    expect(matters.get_by_role("textbox", name=f"{NAME}: amount that matters, s")).to_have_value(
        "0.2"
    )
    page.get_by_role("button", name="Start").press("Enter")
    expect(page).to_have_url(re.compile("/run$"))
    expect(page.get_by_text("12 of 12")).to_be_visible(timeout=240_000)
    page.goto(page.url.replace("/run", "/findings"))
    expect(page.get_by_text("Varrow 12 ahead by", exact=False).first).to_be_visible()
