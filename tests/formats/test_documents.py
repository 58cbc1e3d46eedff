"""The documents in docs/ describe what is written."""

import json

import jsonschema

from haremile.config import ROOT
from haremile.core.records.conditions import KEYS
from haremile.core.records.metrics import METHODS
from haremile.formats.readings_csv import OPTIONAL, REQUIRED
from haremile_probe.wire import CaptureTrace, Evidence, Fault, dump_capture
from helpers import capture_for, install, order

DOCS = ROOT / "docs"


def test_a_capture_is_valid_by_its_schema():
    capture = capture_for(order(install("Osterfell Base")))
    capture.traces = [CaptureTrace("memory.used", "B", [0.5], [1.0])]
    capture.evidence, capture.faults = [Evidence("serial", "…")], [Fault("denied", "tables")]
    schema = json.loads((DOCS / "capture.schema.json").read_text())
    jsonschema.validate(json.loads(dump_capture(capture)), schema)


def test_the_table_schema_names_every_column_of_a_readings_file():
    page = (DOCS / "formats.md").read_text()
    schema = json.loads(page.partition("```json")[2].partition("```")[0])
    names = [field["name"] for field in schema["fields"]]
    assert names == [*REQUIRED, *OPTIONAL, "condition.KEY"]


def test_the_page_names_every_condition_and_method():
    text = " ".join((DOCS / "formats.md").read_text().split())
    for word in (*KEYS, *METHODS):
        assert word in text, word
