"""Findings of a study."""

from uuid import UUID

from haremile.bench.ports import ReadingBook, StudyBook
from haremile.core.findings import Findings, Plan, find


def study_findings(studies: StudyBook, readings: ReadingBook, study_id: UUID) -> Findings:
    """Reckon what the study says so far."""
    study = studies.get(study_id)
    names = {contender.lane_no: contender.label for contender in study.contenders}
    plan = Plan(study.margins, study.looks)
    return find(names, readings.observations(study_id), studies.outcomes(study_id), plan)
