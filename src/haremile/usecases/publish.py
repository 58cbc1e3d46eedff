"""Reports published: versions that stay as they are."""

import hashlib
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from haremile.core.wording.report import report_changes
from haremile.errors import ConflictError
from haremile.formats.readings_csv import write_readings
from haremile.formats.report_page import Stamp
from haremile.usecases.export_readings import export_lines
from haremile.usecases.ports import ReportVersion
from haremile.usecases.report import (
    Report,
    Sources,
    report_figures,
    report_texts,
    study_report,
)

Content = Mapping[str, Any]


@dataclass(frozen=True)
class Publishing:
    """Publishes reports; `content_of` writes one as JSON would have it, `page_of` as a file."""

    sources: Sources
    content_of: Callable[[Report], Content]
    page_of: Callable[[Content, Stamp], bytes]

    def since(self, report: Report, content: Content) -> list[str]:
        """What a report says otherwise than its newest version; empty where there is none."""
        versions = self.sources.reports.versions(report.study)
        return _changes(versions[0], report, content_hash(content)) if versions else []

    def publish(self, study_id: UUID, at: datetime) -> ReportVersion:
        """Keep what the report says now as another version.

        Raises
        ------
        NotFoundError
            If there is no such study.
        BadInputError
            If it is a draft.
        ConflictError
            If the newest version says the same, word by word and reading by reading.
        """
        report = study_report(self.sources, study_id)
        content = self.content_of(report)
        versions = self.sources.reports.versions(study_id)
        newest = versions[0] if versions else None
        digest = content_hash(content)
        if newest is not None and newest.sha256 == digest:
            raise ConflictError(f"version {newest.version} says exactly this already")
        made = ReportVersion(
            version=newest.version + 1 if newest else 1,
            sha256=digest,
            at=at,
            figures=report_figures(report),
            texts=report_texts(report),
            changes=_changes(newest, report, digest) if newest else [],
        )
        page = self.page_of(content, Stamp(made.version, at, digest, tuple(made.changes)))
        study = self.sources.studies.get(study_id)
        lines = export_lines(
            study,
            self.sources.readings.readings(study_id),
            self.sources.studies.runs(study_id),
        )
        self.sources.reports.publish(study_id, made, page, write_readings(lines))
        return made


def _changes(was: ReportVersion, report: Report, digest: str) -> list[str]:
    now = report_figures(report)
    told = report_changes(was.figures, now, was.texts, report_texts(report))
    return told if told or digest == was.sha256 else ["details changed, and no figure did"]


def content_hash(content: Content) -> str:
    """The sha256 of everything that a report holds."""
    text = json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()
