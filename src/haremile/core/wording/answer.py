"""What a study answers, in one line of a list."""

from haremile.core.comparison.records import FindingRow, Findings
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.study import Answer


def answer_of(findings: Findings) -> Answer:
    """The headline of the first measure: over all machines where there are several, else of the
    first row of the sheet; and what it speaks of.

    `findings` have their words, of `wording.findings.in_words`.
    """
    over = next((row for row in findings.machines if row.headline), None)
    if over is not None:
        leads = {one.leader for one in over.leaders}
        verdict = Verdict.AHEAD if len(leads) == 1 and None not in leads else Verdict.UNDECIDED
        about = f"{over.label}, {len(over.leaders)} machines"
        return Answer(over.headline, about, verdict)
    row = next(iter(findings.rows), None)
    if row is None:
        return Answer("Nothing was measured yet", "", "")
    verdict = Verdict.LEVEL if row.is_shared else row.verdict
    return Answer(row.headline, _about(row), verdict)


def _about(row: FindingRow) -> str:
    start = f", {row.start.replace('-', ' ')}" if row.start else ""
    return f"{row.label}{start}, {row.machine}"
