"""Reports: written, published, handed out as files."""

from datetime import UTC, datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Response

from haremile.api.dependencies import Bench
from haremile.api.schemas.report import (
    OfferedPart,
    PublishedOut,
    ReportContentOut,
    ReportIn,
    ReportOut,
    VersionOut,
)
from haremile.printing import no_pdf_reason, print_pdf
from haremile.usecases.report import part_titles, study_report

router = APIRouter(prefix="/studies/{study_id}/report", tags=["reports"])

Number = Annotated[int, Path(ge=1, le=10_000)]


@router.get("")
def get_report(study_id: UUID, bench: Bench) -> ReportOut:
    """A report while it is written: a complete draft where nobody wrote yet."""
    sources = bench.publishing.sources
    report = study_report(sources, study_id)
    titles = part_titles(sources, study_id)
    words, content = report.words, ReportContentOut.of(report)
    return ReportOut(
        headline=words.headline,
        lead=words.lead,
        credits=words.credits,
        is_written=bench.reports.words(study_id) is not None,
        parts=[
            OfferedPart(
                kind=one.kind,
                key=one.key,
                title=titles[one.kind, one.key],
                is_shown=one.is_shown,
            )
            for one in words.parts
        ],
        content=content,
        versions=[VersionOut.model_validate(one) for one in bench.reports.versions(study_id)],
        since=bench.publishing.since(report, content.model_dump(mode="json")),
        no_pdf=no_pdf_reason(),
    )


@router.put("", status_code=204)
def write_report(study_id: UUID, asked: ReportIn, bench: Bench) -> None:
    """Keep what is written."""
    bench.reports.write(study_id, asked.words())


@router.delete("", status_code=204)
def begin_report_again(study_id: UUID, bench: Bench) -> None:
    """Begin again from the findings; what was published stays."""
    bench.reports.write(study_id, None)


@router.post("/versions", status_code=201)
def publish_report(study_id: UUID, bench: Bench) -> PublishedOut:
    """Keep what the report says now as another version."""
    made = bench.publishing.publish(study_id, datetime.now(UTC))
    return PublishedOut(version=made.version)


@router.get("/versions/{version}/page", response_class=Response)
def get_report_page(study_id: UUID, version: Number, bench: Bench) -> Response:
    """A version as one file that needs no server."""
    page = bench.reports.page(study_id, version)
    headers = _as_file(study_id, version, "html")
    return Response(page, media_type="text/html; charset=utf-8", headers=headers)


@router.get("/versions/{version}/pdf", response_class=Response)
def get_report_pdf(study_id: UUID, version: Number, bench: Bench) -> Response:
    """The same printed, by the browser that is on this machine."""
    printed = print_pdf(bench.reports.page(study_id, version))
    headers = _as_file(study_id, version, "pdf")
    return Response(printed, media_type="application/pdf", headers=headers)


@router.get("/versions/{version}/readings.csv", response_class=Response)
def get_report_readings(study_id: UUID, version: Number, bench: Bench) -> Response:
    """All readings and failed runs as they were when it was published."""
    body = bench.reports.csv(study_id, version)
    headers = _as_file(study_id, version, "csv")
    return Response(body, media_type="text/csv; charset=utf-8", headers=headers)


def _as_file(study_id: UUID, version: int, kind: str) -> dict[str, str]:
    name = f"haremile-report-{str(study_id)[:8]}-v{version}.{kind}"
    return {"Content-Disposition": f'attachment; filename="{name}"'}
