"""A study's report: a complete draft out of what is known, and what a version of it holds."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from math import isinf
from uuid import UUID

from haremile.core.comparison.boot_parts import CHAIN
from haremile.core.comparison.records import FindingRow, Findings, LaneFinding
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.conditions import KEYS, OF_THE_RUN
from haremile.core.records.library import Noun
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.report import PartKind, ReportPart, ReportWords, with_parts
from haremile.core.records.study import Run, Study, entrants
from haremile.core.records.units import Scale
from haremile.core.wording.answer import answer_of
from haremile.core.wording.report import methods_in_words
from haremile.core.wording.steps import Step, steps_against
from haremile.errors import BadInputError, HareMileError, NotFoundError
from haremile.usecases.boot_parts import MachineParts, study_boot_parts
from haremile.usecases.compare import study_findings
from haremile.usecases.ports import (
    EverMeasured,
    Incidents,
    ReadingRepository,
    ReportShelf,
    Scorecards,
    StoredReading,
    StudyRepository,
    Things,
)
from haremile.usecases.read_elsewhere import ReadElsewhere
from haremile.usecases.scorecards import ScorecardPage, TiePlaces, scorecard_page
from haremile.usecases.standings import (
    Asked,
    StandingLine,
    StandingsPage,
    standings_page,
)

SHOWN_ROWS = 4
MOST_READINGS = 20_000
MOST_IN_STANDING = 5_000
"""Readings behind one list of standings that a report holds."""
"""Of one report: what is read by persons holds no more."""


@dataclass(frozen=True)
class Cell:
    """A figure or word of a table; `anchor` is the place in the report that it leads to."""

    text: str
    anchor: str = ""


@dataclass(frozen=True)
class FindingFigure:
    """What the picture of one row is drawn from."""

    row: FindingRow
    readings: Sequence[StoredReading]


Figure = FindingFigure | MachineParts | StandingsPage | None


@dataclass(frozen=True)
class VerdictSteps:
    """How the verdict on one contender against another came about."""

    title: str
    steps: Sequence[Step]


@dataclass(frozen=True)
class Section:
    """A part of a report with everything that it says; `figure` is what its picture is drawn
    from, `steps` how its verdicts came about."""

    part: ReportPart
    title: str
    headline: str
    paragraphs: Sequence[str]
    columns: Sequence[str] = ()
    rows: Sequence[Sequence[Cell]] = ()
    figure: Figure = None
    steps: Sequence[VerdictSteps] = ()


@dataclass(frozen=True)
class ReadingSaid:
    """A reading or a failed run as it stands at the end of a report."""

    run: int | None
    block: int
    at: datetime | None
    text: str
    note: str


@dataclass(frozen=True)
class LaneReadings:
    """All readings of one lane in one row, under the anchor that figures lead to."""

    anchor: str
    title: str
    lines: Sequence[ReadingSaid]


@dataclass(frozen=True)
class LaneShown:
    """A lane, and the number from which it takes colour and mark."""

    lane_no: int
    entrant_no: int
    name: str


@dataclass(frozen=True)
class Report:
    """Everything that a version of a report holds, or would hold now."""

    study: UUID
    title: str
    begun: datetime
    machines: Sequence[str]
    words: ReportWords
    lanes: Sequence[LaneShown]
    sections: Sequence[Section]
    readings: Sequence[LaneReadings]


@dataclass(frozen=True)
class Sources:
    """Where a report takes what it says from."""

    studies: StudyRepository
    readings: ReadingRepository
    ever: EverMeasured
    things: Things
    scorecards: Scorecards
    incidents: Incidents
    reports: ReportShelf


def study_report(sources: Sources, study_id: UUID) -> Report:
    """The report of a study as it would be published now.

    Raises
    ------
    NotFoundError
        If there is no such study.
    BadInputError
        If it is a draft, of which there is nothing to tell.
    """
    study = sources.studies.get(study_id)
    if study.draft is not None:
        raise BadInputError("a draft has no report; start the study first")
    return _Writer(sources, study).report()


class _Writer:
    """Writes one report."""

    def __init__(self, sources: Sources, study: Study):
        self._sources, self._study = sources, study
        self._findings: Findings = study_findings(sources.studies, sources.readings, study.id)
        self._entrants = entrants(study.contenders)
        self._runs = {
            run.id: number for number, run in enumerate(sources.studies.runs(study.id), start=1)
        }
        self._read: dict[str, list[StoredReading]] = {}
        self._anchors: dict[str, int] = {}
        self._elsewhere = ReadElsewhere(sources.studies, sources.readings)
        self._in_standings: list[LaneReadings] = []

    def report(self) -> Report:
        study = self._study
        kept = self._sources.reports.words(study.id)
        offered = dict(self._offered())
        parts = [make.part for make in offered.values()]
        words = with_parts(kept, parts) if kept else self._first_words(parts)
        sections = []
        for part in words.parts:
            section = offered[part.kind, part.key]
            if part.is_shown:
                sections.append(section.make(part))
        machines = list(dict.fromkeys(one.install.machine.name for one in study.contenders))
        lanes = [LaneShown(no, one.no, one.name) for no, one in self._entrants.items()]
        return Report(
            study.id,
            study.title,
            study.created_at,
            machines,
            words,
            lanes,
            sections,
            list(self._appendix()),
        )

    def titles(self) -> dict[tuple[PartKind, str], str]:
        return {key: one.title for key, one in self._offered()}

    def _first_words(self, parts: Sequence[ReportPart]) -> ReportWords:
        rows = self._findings.rows
        lead = "\n\n".join(row.sentence for row in rows[:2] if row.sentence)
        machines = dict.fromkeys(one.install.machine.name for one in self._study.contenders)
        credit = f"Measured with Hare Mile on {', '.join(machines)}."
        return ReportWords(answer_of(self._findings).headline, lead, credit, tuple(parts))

    def _offered(self) -> "Iterator[tuple[tuple[PartKind, str], _Offer]]":
        """Every part that can be shown, in the order of a first draft."""
        for offer in (
            *self._rows(),
            *self._boot_parts(),
            *self._failures(),
            *self._standing(),
            *self._cards(),
            self._conditions(),
            self._methods(),
        ):
            yield (offer.part.kind, offer.part.key), offer

    def _rows(self) -> "Iterator[_Offer]":
        rows = self._findings.rows
        main = [row for row in rows if not row.facet and row.metric not in CHAIN] or rows
        shown = {row.key for row in main[:SHOWN_ROWS]}
        for row in self._findings.rows:
            part = ReportPart(PartKind.FINDING, row.key, row.key in shown)
            yield _Offer(part, _title(row), partial(self._row, row=row))

    def _row(self, part: ReportPart, row: FindingRow) -> Section:
        readings = [one for one in self._readings(row.metric) if one.row_key == row.key]
        number = self._anchors.setdefault(row.key, len(self._anchors) + 1)
        table = [
            self._lane_cells(row, lane, f"readings-{number}-{lane.lane_no}") for lane in row.lanes
        ]
        return Section(
            part,
            _title(row),
            row.headline,
            [row.sentence],
            ("contender", "median", "95 % range", "readings", "failed", "set aside", "verdict"),
            table,
            FindingFigure(row, readings),
            self._verdict_steps(row),
        )

    def _verdict_steps(self, row: FindingRow) -> list[VerdictSteps]:
        """Of every contender against the leader, or the first where nobody is ahead."""
        names = {lane: one.name for lane, one in self._entrants.items()}
        against = row.lanes[0].lane_no if row.leader is None else row.leader
        return [
            VerdictSteps(f"{names[one.b]} against {names[against]}", one.steps)
            for one in steps_against(row, names, against)
        ]

    def _lane_cells(self, row: FindingRow, lane: LaneFinding, anchor: str) -> list[Cell]:
        name = self._entrants[lane.lane_no].name
        leader = row.leader
        verdict = next(
            (p.verdict_text for p in row.pairs if (p.a, p.b) == (leader, lane.lane_no)), ""
        )
        if lane.lane_no == leader:
            verdict = "first" if row.verdict is Verdict.AHEAD else ""
        if lane.summary is None:
            none = [Cell("none"), Cell(""), Cell("0")]
        else:
            interval = lane.summary.median_interval or lane.summary.widest_interval
            none = [
                Cell(_amount(row.scale, lane.summary.median), anchor),
                Cell(_range(row.scale, interval.low, interval.high)),
                Cell(str(lane.summary.n), anchor),
            ]
        return [
            Cell(name),
            *none,
            Cell(str(lane.failed), anchor if lane.failed else ""),
            Cell(str(lane.set_aside), anchor if lane.set_aside else ""),
            Cell(verdict),
        ]

    def _readings(self, key: str) -> list[StoredReading]:
        if key not in self._read:
            self._read[key] = self._sources.readings.readings(self._study.id, key)
        return self._read[key]

    def _appendix(self) -> Iterator[LaneReadings]:
        """The readings of the rows that are shown, lane by lane; failed runs beside them."""
        failed = [
            run
            for run in self._sources.studies.runs(self._study.id)
            if run.reason is not None and run.finished_at is not None
        ]
        rows = {row.key: row for row in self._findings.rows}
        total = sum(len(lane.lines) for lane in self._in_standings)
        for key, number in self._anchors.items():
            row = rows[key]
            readings = [one for one in self._readings(row.metric) if one.row_key == key]
            total += len(readings)
            if total > MOST_READINGS:
                raise BadInputError(
                    f"the parts that are shown hold more than {MOST_READINGS:,} readings; show "
                    "fewer"
                )
            for lane in row.lanes:
                name = self._entrants[lane.lane_no].name
                yield LaneReadings(
                    f"readings-{number}-{lane.lane_no}",
                    f"{_title(row)}: {name}",
                    self._lines(row, lane.lane_no, readings, failed),
                )
        yield from self._in_standings

    def _lines(
        self,
        row: FindingRow,
        lane_no: int,
        readings: Sequence[StoredReading],
        failed: Sequence[Run],
    ) -> list[ReadingSaid]:
        lines = [
            ReadingSaid(
                self._runs.get(one.run_id),
                one.block,
                one.at,
                _amount(row.scale, one.value),
                _note(one, row.scale),
            )
            for one in readings
            if one.lane_no == lane_no
        ]
        lines += [
            ReadingSaid(
                self._runs.get(run.id), run.block, run.finished_at, "failed", run.reason or ""
            )
            for run in failed
            if run.lane_no == lane_no and run.procedure == row.procedure
        ]
        return sorted(lines, key=lambda line: (line.block, line.run or 0))

    def _boot_parts(self) -> "Iterator[_Offer]":
        try:
            found = study_boot_parts(self._sources.studies, self._sources.readings, self._study.id)
        except HareMileError:  # no boot was taken apart: there is nothing to offer
            return
        for machine in found:
            part = ReportPart(PartKind.BOOT_PARTS, machine.machine, True)
            title = f"Parts of the boot, {machine.machine}"
            yield _Offer(
                part,
                title,
                partial(_parts_section, title=title, machine=machine),
            )

    def _failures(self) -> "Iterator[_Offer]":
        for row in self._findings.reliability:
            known = PROCEDURES.get(row.procedure)
            label = known.label.lower() if known else row.procedure
            title = f"Failed runs: {label}, {row.machine}"
            cells = [
                [Cell(self._entrants[one.lane_no].name), Cell(str(one.runs)), Cell(one.reason)]
                for one in row.reasons
            ]
            part = ReportPart(
                PartKind.FAILURES, f"{row.procedure} {row.machine}", bool(row.reasons)
            )
            yield _Offer(
                part,
                title,
                partial(_failures_section, title=title, sentence=row.sentence, cells=cells),
            )

    def _standing(self) -> "Iterator[_Offer]":
        seen = set()
        for row in self._findings.rows:
            start = row.start or ""
            key = f"{row.metric}|{row.method}|{start}|{row.facet}"
            if key in seen:
                continue
            seen.add(key)
            asked = Asked(row.metric, row.method, start, row.facet, machine=row.machine)
            part = ReportPart(PartKind.STANDING, key, len(seen) == 1)
            title = f"Among all that was ever measured: {row.label.lower()}, {row.machine}"
            yield _Offer(
                part,
                title,
                partial(self._standing_of, asked=asked, title=title),
            )

    def _standing_of(self, part: ReportPart, asked: Asked, title: str) -> Section:
        try:
            page = standings_page(self._sources.ever, self._sources.things, asked)
        except NotFoundError as gone:
            return Section(part, title, "", [str(gone)])
        if page.scale is None:
            return Section(part, title, page.headline, list(page.notes))
        count = sum(found.readings for line in page.lines for found in line.measured)
        leads = count <= MOST_IN_STANDING
        rows = [
            self._standing_cells(
                line,
                page.scale,
                self._standing_readings(line, page.scale, part.key, title) if leads else "",
            )
            for line in page.lines
        ]
        notes = [page.beside, *page.notes]
        if not leads:
            notes.append(
                f"The {count:,} readings behind these medians stay with their studies: a report "
                f"holds {MOST_IN_STANDING:,} of a list."
            )
        return Section(
            part,
            title,
            page.headline,
            notes,
            ("place", "system", "figure", "95 % range", "measured in"),
            rows,
            page,
        )

    def _standing_readings(self, line: StandingLine, scale: Scale, key: str, title: str) -> str:
        """Keep all readings that a line rests on; the anchor that its figures lead to."""
        one = line.standing
        anchor = f"readings-ever-{len(self._in_standings) + 1}"
        said = [
            ReadingSaid(
                self._runs.get(reading.run_id),
                reading.block,
                reading.at,
                _amount(scale, reading.value),
                "; ".join(filter(None, [measured.title, _note(reading, scale)])),
            )
            for measured in line.measured
            for reading in self._elsewhere.readings(measured, key.partition("|")[0], one.system)
        ]
        self._in_standings.append(LaneReadings(anchor, f"{title}: {one.system}", said))
        return anchor

    @staticmethod
    def _standing_cells(line: StandingLine, scale: Scale, anchor: str) -> list[Cell]:
        one = line.standing
        limits = _range(scale, one.interval.low, one.interval.high) if one.interval else "not known"
        medians = (
            f"{scale.amount(found.median)}, median of {found.readings}, {found.title}"
            for found in line.measured
        )
        return [
            Cell(_place(one.place.first, one.place.last)),
            Cell(one.system),
            Cell(_amount(scale, one.value), anchor),
            Cell(limits, anchor),
            Cell("; ".join(medians), anchor),
        ]

    def _cards(self) -> "Iterator[_Offer]":
        have = {one.system for one in self._sources.scorecards.newest()}
        for system in self._sources.things.all(Noun.SYSTEM):
            named = any(one.install.system.name == system.name for one in self._study.contenders)
            if not named or system.id not in have:
                continue
            part = ReportPart(PartKind.SCORECARD, str(system.id), True)
            yield _Offer(
                part,
                f"Scorecard: {system.name}",
                partial(self._card, system=system.id),
            )

    def _card(self, part: ReportPart, system: UUID) -> Section:
        sources = self._sources
        places = TiePlaces(
            sources.studies,
            sources.readings,
            sources.scorecards,
            sources.incidents,
            sources.things,
            system,
        )
        page = scorecard_page(sources.scorecards, sources.things, places, system)
        return _card_section(part, page)

    def _conditions(self) -> "_Offer":
        part = ReportPart(PartKind.CONDITIONS, "", True)
        return _Offer(part, "Conditions", self._conditions_of)

    def _conditions_of(self, part: ReportPart) -> Section:
        observed = self._sources.readings.observed_conditions(self._study.id)
        lanes = sorted(observed)
        keys = [
            key
            for key in KEYS
            if key not in OF_THE_RUN and any(key in observed[lane] for lane in lanes)
        ]
        rows = [
            [Cell(KEYS[key]), *(Cell(observed[lane].get(key, "not stated")) for lane in lanes)]
            for key in keys
        ]
        notes = dict.fromkeys(one.sentence for row in self._findings.rows for one in row.fair_start)
        says = list(notes) or ["Every condition that was stated is the same for all."]
        columns = ("condition", *(self._entrants[lane].name for lane in lanes))
        return Section(part, "Conditions", "", says, columns, rows)

    def _methods(self) -> "_Offer":
        part = ReportPart(PartKind.METHODS, "", True)
        return _Offer(part, "How it was measured", self._methods_of)

    def _methods_of(self, part: ReportPart) -> Section:
        shown = [
            (row.metric, row.method) for row in self._findings.rows if row.key in self._anchors
        ]
        study = self._study
        says = methods_in_words(shown, study.order, bool(study.seed), self._findings.expected_false)
        return Section(part, "How it was measured", "", says)


@dataclass(frozen=True)
class _Offer:
    """A part that can be shown, and how it is written."""

    part: ReportPart
    title: str
    make: Callable[[ReportPart], Section]


def part_titles(sources: Sources, study_id: UUID) -> Mapping[tuple[PartKind, str], str]:
    """What each part of a study's report is called."""
    return _Writer(sources, sources.studies.get(study_id)).titles()


def _parts_section(part: ReportPart, title: str, machine: MachineParts) -> Section:
    return Section(part, title, machine.headline, [machine.sentence], figure=machine)


def _failures_section(
    part: ReportPart, title: str, sentence: str, cells: Sequence[Sequence[Cell]]
) -> Section:
    return Section(part, title, "", [sentence], ("contender", "runs", "why"), cells)


def _title(row: FindingRow) -> str:
    start = f", {row.start.replace('-', ' ')}" if row.start else ""
    return f"{row.label}{start}, {row.machine}"


def _amount(scale: Scale, value: float) -> str:
    return "beyond the time limit" if isinf(value) else scale.amount(value)


def _range(scale: Scale, low: float, high: float) -> str:
    if isinf(high):
        return f"{scale.number(low)} or more" if not isinf(low) else "beyond the time limit"
    return f"{scale.number(low)} to {scale.amount(high)}"


def _place(first: int, last: int) -> str:
    return str(first) if first == last else f"{first} to {last}"


def _note(reading: StoredReading, scale: Scale) -> str:
    said = []
    if reading.set_aside is not None:
        said.append(f"set aside: {reading.set_aside}")
    if reading.value_before is not None:
        said.append(f"corrected by hand, was {scale.amount(reading.value_before)}")
    return "; ".join(said)


def _card_section(part: ReportPart, page: ScorecardPage) -> Section:
    card = page.card
    if card is None:
        return Section(part, f"Scorecard: {page.system}", page.headline, [page.sentence])
    rows = [
        [
            Cell(one.name),
            Cell("no score" if one.score is None else card.scale.text(one.score)),
            Cell(one.why),
        ]
        for one in card.criteria
    ]
    says = [page.sentence]
    for is_good, word in ((True, "Good"), (False, "Not so good")):
        points = [one.says for one in card.points if one.is_good is is_good]
        if points:
            says.append(f"{word}: {'; '.join(points)}.")
    says += [f"For whom: {card.for_whom}"] if card.for_whom else []
    says += [f"For whom not: {card.not_for_whom}"] if card.not_for_whom else []
    works = [f"{line.subject} {line.says}" for line in page.works]
    says += [f"What works: {'; '.join(works)}."] if works else []
    title = f"Scorecard: {page.system}, version {page.version}"
    return Section(part, title, page.headline, says, ("criterion", "score", "why"), rows)


def report_figures(report: Report) -> dict[str, dict[str, str]]:
    """Each section's figures as they are written, by which versions are compared."""
    found: dict[str, dict[str, str]] = {}
    for section in report.sections:
        figures = {"": section.headline} if section.headline else {}
        for row in section.rows:
            if section.part.kind in (PartKind.FINDING, PartKind.SCORECARD):
                figures[row[0].text] = row[1].text
            elif section.part.kind is PartKind.STANDING:
                figures[row[1].text] = row[2].text
        found[section.title] = figures
    return found


def report_texts(report: Report) -> list[str]:
    """The tester's own words."""
    return [report.words.headline, report.words.lead, report.words.credits]
