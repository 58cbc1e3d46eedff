"""Reports over HTTP: a complete draft, words kept, versions that stay as they are."""

import json
import re
from html.parser import HTMLParser

import pytest

from haremile.demo.world import REPORTED, STUDIES

OTHER = "Which system fits the Field-kit board?"


class Links(HTMLParser):
    """Where a page leads, what can be led to, and what is fetched."""

    def __init__(self):
        super().__init__()
        self.leads, self.anchors, self.fetched = [], set(), []

    def handle_starttag(self, tag, attrs):
        known = dict(attrs)
        self.anchors.add(known.get("id"))
        if tag == "a":
            self.leads.append(known["href"])
        self.fetched += [known[name] for name in ("src", "srcset") if name in known]
        if tag == "link":
            self.fetched.append(known["href"])


@pytest.fixture(name="client")
def client_of_the_world(world, client):
    """Signed in after the sample world was put in place."""
    return client


@pytest.fixture(name="at")
def address_of_the_report(world, client):
    return f"/api/studies/{world[OTHER].id}/report"


def words_of(report, **change):
    return {
        "headline": report["headline"],
        "lead": report["lead"],
        "credits": report["credits"],
        "parts": [{k: one[k] for k in ("kind", "key", "is_shown")} for one in report["parts"]],
        **change,
    }


def test_a_report_opens_as_a_complete_draft(client, at):
    report = client.get(at).json()
    assert report["headline"] and report["lead"] and report["versions"] == []
    assert not report["is_written"]
    kinds = [one["part"]["kind"] for one in report["content"]["sections"]]
    assert kinds[0] == "finding" and kinds[-2:] == ["conditions", "methods"]
    assert {"standing", "boot parts"} <= set(kinds)
    assert all(
        one["rows"] for one in report["content"]["sections"] if one["part"]["kind"] == kinds[0]
    )


def test_words_and_choice_are_kept_and_begun_again(client, at):
    report = client.get(at).json()
    parts = words_of(report)["parts"][::-1]
    parts[0]["is_shown"] = True
    wrote = {"headline": "Take the light one", "lead": "<b>bold</b> *soft*", "parts": parts}
    assert client.put(at, json=words_of(report, **wrote)).status_code == 204
    kept = client.get(at).json()
    assert kept["headline"] == "Take the light one" and kept["is_written"]
    assert kept["content"]["lead_html"] == "<p>&lt;b&gt;bold&lt;/b&gt; <em>soft</em></p>\n"
    assert words_of(kept)["parts"] == parts
    assert client.delete(at).status_code == 204
    again = client.get(at).json()
    assert words_of(again) == words_of(report)


def test_a_version_stays_as_it_is_and_the_next_says_what_changed(client, bench, world, at):
    report = client.get(at).json()
    assert client.post(f"{at}/versions").json() == {"version": 1}
    same = client.post(f"{at}/versions")
    assert same.status_code == 409 and "says exactly this already" in same.json()["detail"]
    page = client.get(f"{at}/versions/1/page").content
    readings = client.get(f"{at}/versions/1/readings.csv").content
    (first, *_) = bench.readings.readings(world[OTHER].id, "boot.total")
    bench.readings.set_aside(first.id, "the door stood open")
    client.put(at, json=words_of(report, headline="Another head"))
    since = client.get(at).json()["since"]
    assert "other words" in since
    assert client.post(f"{at}/versions").json() == {"version": 2}
    versions = client.get(at).json()["versions"]
    assert versions[0]["changes"] == since and versions[0]["sha256"] != versions[1]["sha256"]
    assert client.get(f"{at}/versions/1/page").content == page
    assert client.get(f"{at}/versions/1/readings.csv").content == readings
    later = client.get(f"{at}/versions/2/page").text
    assert "What changed since version 1" in later and "the door stood open" in later


def test_the_page_needs_nothing_else_and_every_figure_leads_to_its_readings(client, at):
    client.post(f"{at}/versions")
    text = client.get(f"{at}/versions/1/page").text
    links = Links()
    links.feed(text)
    assert links.fetched == [] and "url(http" not in text and "//cdn" not in text
    assert links.leads and all(one.startswith(("#readings-", "#figures-")) for one in links.leads)
    assert any(one.startswith("#figures-") for one in links.leads), "those of sentences too"
    assert {one[1:] for one in links.leads} <= links.anchors
    held = json.loads(re.search(r'id="figures">(.*?)</script>', text, re.S)[1])
    assert any(one and one["kind"] == "finding" for one in held["figures"])


def test_a_standings_figures_lead_to_the_readings_of_every_study_they_rest_on(client, world):
    at = f"/api/studies/{world[REPORTED].id}/report"
    content = client.get(at).json()["content"]
    (standing,) = [one for one in content["sections"] if one["part"]["kind"] == "standing"]
    lanes = {lane["anchor"]: lane for lane in content["readings"]}
    for _, _, figure, limits, medians in standing["rows"]:
        lane = lanes[figure["anchor"]]
        assert limits["anchor"] == medians["anchor"] == figure["anchor"]
        told = [int(count) for count in re.findall(r"median of (\d+)", medians["text"])]
        assert len(lane["lines"]) >= sum(told)
        assert all(line["note"] for line in lane["lines"]), "each says its study"


def test_what_was_written_cannot_break_out_of_the_page(client, at):
    report = client.get(at).json()
    bad = "</script><script>alert(1)</script>"
    client.put(at, json=words_of(report, headline=bad, lead=bad, credits=bad))
    client.post(f"{at}/versions")
    text = client.get(f"{at}/versions/1/page").text
    assert "<script>alert" not in text and text.count("</script>") == 2


def test_the_sample_world_has_a_report_out(client, world):
    report = client.get(f"/api/studies/{world[REPORTED].id}/report").json()
    assert [one["version"] for one in report["versions"]] == [1] and report["since"] == []
    study = client.get(f"/api/studies/{world[REPORTED].id}").json()
    assert study["published"] == 1
    assert any(one["part"]["kind"] == "scorecard" for one in report["content"]["sections"])


@pytest.mark.parametrize("truth", STUDIES, ids=lambda one: one.title[:24])
def test_every_sample_study_has_a_complete_report(client, world, truth):
    report = client.get(f"/api/studies/{world[truth.title].id}/report")
    assert report.status_code == 200 and report.json()["headline"]


@pytest.mark.parametrize(
    "wrong",
    [
        {"headline": ""},
        {"headline": "x" * 201},
        {"lead": "x" * 20_001},
        {"parts": [{"kind": "finding", "key": "a", "is_shown": True}] * 2},
        {"parts": [{"kind": "gossip", "key": "a", "is_shown": True}]},
    ],
)
def test_words_that_are_none_are_refused(client, at, wrong):
    report = client.get(at).json()
    assert client.put(at, json=words_of(report, **wrong)).status_code == 422
    assert client.get(at).json()["is_written"] is False


def test_what_is_not_there_is_not_found(client, at):
    nobody = "/api/studies/01a22398-c788-70a2-90b5-90ad99057a13/report"
    assert client.get(nobody).status_code == 404
    assert client.post(f"{nobody}/versions").status_code == 404
    for file in ("page", "pdf", "readings.csv"):
        assert client.get(f"{at}/versions/7/{file}").status_code == 404


def test_a_draft_has_no_report(client):
    draft = client.post("/api/studies/drafts", json={"title": "Soon"}).json()["id"]
    found = client.get(f"/api/studies/{draft}/report")
    assert found.status_code == 422 and "draft" in found.json()["detail"]


def test_a_version_is_printed(client, at):
    client.post(f"{at}/versions")
    found = client.get(f"{at}/versions/1/pdf")
    assert found.status_code == 200 and found.content.startswith(b"%PDF-")
    assert len(found.content) > 50_000


def test_where_no_browser_is_there_is_no_pdf_and_the_page_says_why(client, at, monkeypatch):
    monkeypatch.setattr("haremile.printing.BROWSERS", ("no-such-browser",))
    client.post(f"{at}/versions")
    assert "Chromium is not installed" in client.get(at).json()["no_pdf"]
    found = client.get(f"{at}/versions/1/pdf")
    assert found.status_code in (501, 503) and "Chromium" in found.json()["detail"]
