"""A report as it is served, published and written."""

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import BaseModel, StringConstraints

from haremile.api.schemas.base import TEXT_PATTERN, Out, Text
from haremile.api.schemas.findings import FindingRowOut
from haremile.api.schemas.pictures import BootPartsOut
from haremile.api.schemas.readings import ReadingColumns
from haremile.core.records.report import MOST_LEAD, MOST_PARTS, PartKind, ReportPart, ReportWords
from haremile.errors import BadInputError
from haremile.formats.markdown import rendered_words
from haremile.usecases.boot_parts import MachineParts
from haremile.usecases.report import Figure, FindingFigure, Report
from haremile.usecases.standings import StandingsPage

Lines = Annotated[
    str,
    StringConstraints(max_length=MOST_LEAD, pattern=TEXT_PATTERN.replace("]*$", "]*$")),
]


class FindingFigureOut(BaseModel):
    """What the picture of one row is drawn from."""

    kind: Literal["finding"] = "finding"
    row: FindingRowOut
    columns: ReadingColumns


class PartsFigureOut(BaseModel):
    """What the picture of a boot's parts is drawn from."""

    kind: Literal["boot parts"] = "boot parts"
    parts: BootPartsOut


class StandingFigureOut(BaseModel):
    """What the picture of a standing is drawn from."""

    kind: Literal["standing"] = "standing"
    page: StandingsPage


FigureOut = FindingFigureOut | PartsFigureOut | StandingFigureOut


class CellOut(Out):
    text: str
    anchor: str


class PartOut(Out):
    kind: PartKind
    key: str
    is_shown: bool


class StepSaidOut(Out):
    title: str
    text: str


class VerdictStepsOut(Out):
    title: str
    steps: list[StepSaidOut]


class SectionOut(BaseModel):
    part: PartOut
    title: str
    headline: str
    paragraphs: list[str]
    columns: list[str]
    rows: list[list[CellOut]]
    figure: FigureOut | None
    steps: list[VerdictStepsOut] = []


class ReadingSaidOut(Out):
    run: int | None
    block: int
    at: datetime | None
    text: str
    note: str


class LaneReadingsOut(Out):
    anchor: str
    title: str
    lines: list[ReadingSaidOut]


class LaneShownOut(Out):
    lane_no: int
    entrant_no: int
    name: str


class ReportContentOut(BaseModel):
    """Everything that a version holds; `lead_html` is the lead, rendered so that it does no
    harm."""

    study: UUID
    title: str
    begun: datetime
    machines: list[str]
    headline: str
    lead_html: str
    credits: str
    lanes: list[LaneShownOut]
    sections: list[SectionOut]
    readings: list[LaneReadingsOut]

    @classmethod
    def of(cls, report: Report) -> "ReportContentOut":
        """From what the use case found."""
        return cls(
            study=report.study,
            title=report.title,
            begun=report.begun,
            machines=list(report.machines),
            headline=report.words.headline,
            lead_html=rendered_words(report.words.lead),
            credits=report.words.credits,
            lanes=[LaneShownOut.model_validate(one) for one in report.lanes],
            sections=[
                SectionOut(
                    part=PartOut.model_validate(one.part),
                    title=one.title,
                    headline=one.headline,
                    paragraphs=list(one.paragraphs),
                    columns=list(one.columns),
                    rows=[[CellOut.model_validate(cell) for cell in row] for row in one.rows],
                    figure=_figure(one.figure),
                    steps=[VerdictStepsOut.model_validate(pair) for pair in one.steps],
                )
                for one in report.sections
            ],
            readings=[LaneReadingsOut.model_validate(one) for one in report.readings],
        )


def _figure(figure: Figure) -> FigureOut | None:
    if isinstance(figure, FindingFigure):
        return FindingFigureOut(
            row=FindingRowOut.of(figure.row), columns=ReadingColumns.of(figure.readings)
        )
    if isinstance(figure, MachineParts):
        return PartsFigureOut(parts=BootPartsOut.of(figure))
    return None if figure is None else StandingFigureOut(page=figure)


def report_content(report: Report) -> dict[str, Any]:
    """Everything that a version holds, as JSON would have it."""
    return ReportContentOut.of(report).model_dump(mode="json")


class VersionOut(Out):
    version: int
    sha256: str
    at: datetime
    changes: list[str]


class OfferedPart(BaseModel):
    """A part that can be shown, in the place that it has."""

    kind: PartKind
    key: str
    title: str
    is_shown: bool


class ReportOut(BaseModel):
    """A report while it is written: its words, all parts that there are, and what it holds now.
    `since` is what it says otherwise than the newest version; `no_pdf` why none can be made."""

    headline: str
    lead: str
    credits: str
    is_written: bool
    parts: list[OfferedPart]
    content: ReportContentOut
    versions: list[VersionOut]
    since: list[str]
    no_pdf: str | None


class PartIn(BaseModel):
    kind: PartKind
    key: Annotated[str, StringConstraints(max_length=500)]
    is_shown: bool


class ReportIn(BaseModel):
    headline: Text
    lead: Lines
    credits: Lines
    parts: list[PartIn]

    def words(self) -> ReportWords:
        """The same as a record. Raises BadInputError where a part stands twice."""
        keys = [(one.kind, one.key) for one in self.parts]
        if len(keys) > MOST_PARTS or len(set(keys)) < len(keys):
            raise BadInputError(f"each part stands once, and there are {MOST_PARTS} at most")
        parts = tuple(ReportPart(one.kind, one.key, one.is_shown) for one in self.parts)
        return ReportWords(self.headline, self.lead, self.credits, parts)


class PublishedOut(BaseModel):
    version: int
