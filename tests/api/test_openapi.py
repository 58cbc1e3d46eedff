import inspect
import json

from haremile.api.application import interface
from haremile.api.openapi import described
from haremile.api.routers import catalogue, events, readings, studies
from haremile.config import ROOT


def test_the_webs_types_are_made_from_the_present_interface():
    kept = json.loads((ROOT / "web/src/api/openapi.json").read_text())
    assert kept == described(interface()), (
        "make it anew: python -m haremile.api.describe >web/src/api/openapi.json"
    )


def test_no_endpoint_blocks_the_event_loop():
    for part in (catalogue, readings, studies):
        for route in part.router.routes:
            assert not inspect.iscoroutinefunction(route.endpoint), route.path
    assert [route.path for route in events.router.routes] == ["/events"]
