"""Where the difference between boots lies, in words that the verdicts bear out."""

from collections.abc import Mapping, Sequence

from haremile.core.comparison.boot_parts import REST, BootPart, PartSource
from haremile.core.comparison.records import FindingRow
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.metrics import metric

DECIDED = (Verdict.AHEAD, Verdict.BEHIND)


def part_label(key: str) -> str:
    """A part's name; what is left is said to be that."""
    return "In no record" if key == REST else metric(key).label


def boot_parts_text(
    lanes: Mapping[int, Sequence[BootPart]],
    sources: Sequence[PartSource],
    rows: Sequence[FindingRow],
    names: Mapping[int, str],
) -> tuple[str, str]:
    """A headline and a sentence: the part in which two contenders lie furthest apart, of those in
    which a verdict tells them apart.

    Parameters
    ----------
    lanes : mapping of lane number to its parts
    sources : sequence of PartSource
    rows : sequence of FindingRow
        Of this machine.
    names : mapping of lane number to its name
    """
    if len(lanes) < 2:
        return "One contender so far", "One contender was booted in parts so far."
    spans = []
    for source in sources:
        lengths = sorted(
            (part.end - part.start, lane)
            for lane, parts in lanes.items()
            for part in parts
            if part.metric == source.metric
        )
        (least, first), (most, last) = lengths[0], lengths[-1]
        spans.append((most - least, source, least, first, most, last))
    spans.sort(key=lambda span: -span[0])
    for apart, source, least, first, most, last in spans:
        if _is_decided(rows, source, first, last):
            part = _lower(part_label(source.metric))
            return (
                f"It lies in {part}: up to {apart:.1f} s apart",
                f"The largest difference that is decided lies in {part}: typically {least:.1f} s "
                f"for {names[first]}, {most:.1f} s for {names[last]}.",
            )
    apart, source, *_ = spans[0]
    part = _lower(part_label(source.metric))
    return (
        "Undecided: in no part a difference is shown yet",
        f"The medians lie furthest apart in {part}, by {apart:.1f} s, but no verdict tells the "
        "contenders apart in any part yet.",
    )


def _is_decided(rows: Sequence[FindingRow], source: PartSource, a: int, b: int) -> bool:
    for row in rows:
        if (row.metric, row.method) == (source.metric, source.method):
            for pair in row.pairs:
                if {pair.a, pair.b} == {a, b} and pair.found.verdict in DECIDED:
                    return True
    return False


def _lower(label: str) -> str:
    return label[:1].lower() + label[1:]
