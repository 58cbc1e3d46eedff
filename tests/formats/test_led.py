"""Figures in a report's sentences lead to the readings that they rest on."""

import pytest

from haremile.formats.led import leading, led, led_html


def cell(text, anchor=""):
    return {"text": text, "anchor": anchor}


SECTION = {
    "paragraphs": ["It takes 14.2 s, or 16 s."],
    "headline": "Varrow 12 ahead by 1.37 s",
    "rows": [
        [cell("Varrow 12"), cell("14.2 s", "readings-1-1"), cell("20", "readings-1-1")],
        [cell("Marlstone 26.1"), cell("15.6 s", "readings-1-2"), cell("20", "readings-1-2")],
    ],
}
NOTHING = {"paragraphs": [], "headline": "", "rows": [[cell("kernel"), cell("6.12")]]}


def test_a_figure_of_one_lane_leads_to_its_readings_and_others_to_the_table():
    made = led("Varrow 12 takes 14.2 s, 1.37 s less (1.1 to 1.6 s).", SECTION, "figures-1")
    assert made == (
        'Varrow 12 takes <a href="#readings-1-1">14.2 s</a>, <a href="#figures-1">1.37 s</a> less '
        '(<a href="#figures-1">1.1 to 1.6 s</a>).'
    )


@pytest.mark.parametrize(
    ("text", "figures"),
    [
        ("Quillfern 9-rc on a Field-kit 26.1 board", 0),
        ("3 of 20 runs failed, 12 % of them", 2),
        ("+15 MiB and −2.5 %", 2),
        ("5,000 /s or 40/s", 1),
        ("read on 5 Oct", 0),
        ("2.4 s sooner (2.1 to 2.8); of (2024 to be)", 2),
    ],
)
def test_names_are_no_figures(text, figures):
    assert led(text, SECTION, "t").count("<a ") == figures


def test_what_is_written_stays_text():
    made = led("<b>14.2 s</b> & more", SECTION, "t")
    assert made == '&lt;b&gt;<a href="#readings-1-1">14.2 s</a>&lt;/b&gt; &amp; more'
    assert led("<i> 3 s", NOTHING, "t") == "&lt;i&gt; 3 s"


def test_within_rendered_words_links_and_code_stay():
    html = '<p>Of 4 GiB it takes 14.2 s &lt; 16 s, <a href="https://seeds.example/">see 3 s</a> '
    made = led_html(html + "<code>16 s</code></p>", [SECTION], 0, "t")
    assert made.count('href="#') == 2
    assert "&lt; " in made
    assert "<code>16 s</code>" in made
    assert ">see 3 s</a>" in made


def test_a_headline_is_of_the_section_that_has_it_or_the_first_that_rests_on_readings():
    other = {**SECTION, "headline": "level"}
    assert leading([NOTHING, other, SECTION], SECTION["headline"]) == 2
    assert leading([NOTHING, other, SECTION], "of my own") == 1
    assert leading([NOTHING], "") is None
