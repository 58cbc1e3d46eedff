"""Reports and their versions; what was published stays as it was."""

import gzip
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any
from uuid import UUID

from peewee import fn

from haremile.core.records.report import PartKind, ReportPart, ReportWords
from haremile.errors import ConflictError, NotFoundError
from haremile.store.database import connected
from haremile.store.events import PostgresEventLog
from haremile.store.rows import ReportRow, ReportVersionRow, StudyRow, database, missing, now
from haremile.usecases.ports import ReportVersion

MOST_VERSIONS = 200


class PostgresReports:
    """Keeps reports."""

    def __init__(self, events: PostgresEventLog):
        self._events = events

    @connected
    def words(self, study_id: UUID) -> ReportWords | None:
        """What was written; None where nothing was yet."""
        row = ReportRow.get_or_none(ReportRow.study == study_id)
        return None if row is None else _words(row.words)

    @connected
    def write(self, study_id: UUID, words: ReportWords | None) -> None:
        """Keep what is written; None begins again from the findings. Raises NotFoundError."""
        with database.atomic():
            _check(study_id)
            if words is None:
                ReportRow.delete().where(ReportRow.study == study_id).execute()
                self._events.add("report.begun_again", study_id)
                return
            given = {"words": asdict(words), "at": now()}
            ReportRow.insert(study=study_id, **given).on_conflict(
                conflict_target=[ReportRow.study], update=given
            ).execute()

    @connected
    def versions(self, study_id: UUID) -> list[ReportVersion]:
        """All versions, the newest first."""
        row = ReportVersionRow
        found = row.select(row.version, row.sha256, row.at, row.figures, row.texts, row.changes)
        return [
            ReportVersion(one.version, one.sha256, one.at, one.figures, one.texts, one.changes)
            for one in found.where(row.study == study_id).order_by(row.version.desc())
        ]

    @connected
    def newest(self, study_id: UUID) -> int | None:
        """Number of the newest version; None where nothing was published."""
        row = ReportVersionRow
        found: int | None = row.select(fn.max(row.version)).where(row.study == study_id).scalar()
        return found

    @connected
    def publish(self, study_id: UUID, made: ReportVersion, page: bytes, csv: bytes) -> None:
        """Keep a version with its page and its readings, for good. Raises ConflictError if there is
        one of that number."""
        row = ReportVersionRow
        with database.atomic():
            _check(study_id)
            if made.version > MOST_VERSIONS:
                raise ConflictError(f"there are {MOST_VERSIONS} versions; no more are kept")
            if row.select().where(row.study == study_id, row.version == made.version).exists():
                raise ConflictError(f"version {made.version} was published meanwhile; look again")
            row.create(
                study=study_id,
                version=made.version,
                sha256=made.sha256,
                at=made.at,
                figures=made.figures,
                texts=list(made.texts),
                changes=list(made.changes),
                page=gzip.compress(page, mtime=0),
                csv=gzip.compress(csv, mtime=0),
            )
            self._events.add("report.published", study_id, version=made.version)

    @connected
    def page(self, study_id: UUID, version: int) -> bytes:
        """The page of a version, as it was. Raises NotFoundError."""
        return _kept(study_id, version, ReportVersionRow.page)

    @connected
    def csv(self, study_id: UUID, version: int) -> bytes:
        """The readings of a version as a file. Raises NotFoundError."""
        return _kept(study_id, version, ReportVersionRow.csv)


def _check(study_id: UUID) -> None:
    if not StudyRow.select().where(StudyRow.id == study_id).exists():
        raise missing("study", study_id)


def _kept(study_id: UUID, version: int, field: Any) -> bytes:
    row = ReportVersionRow
    found = row.select(field).where(row.study == study_id, row.version == version).scalar()
    if found is None:
        raise NotFoundError("version of the report", version)
    return gzip.decompress(bytes(found))


def _words(body: Mapping[str, Any]) -> ReportWords:
    return ReportWords(
        body["headline"],
        body["lead"],
        body["credits"],
        tuple(
            ReportPart(PartKind(one["kind"]), one["key"], one["is_shown"]) for one in body["parts"]
        ),
    )
