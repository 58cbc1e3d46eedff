"""The parts of a report stay in their order; what is new waits to be chosen."""

from haremile.core.records.report import PartKind, ReportPart, ReportWords, with_parts


def part(key, is_shown=True):
    return ReportPart(PartKind.FINDING, key, is_shown)


def test_parts_keep_their_order_and_new_ones_are_not_shown():
    words = ReportWords("head", "lead", "", (part("b", False), part("gone"), part("a")))
    found = with_parts(words, [part("a"), part("b"), part("new")])
    assert found.parts == (part("b", False), part("a"), part("new", False))
    assert found.lead == "lead"
