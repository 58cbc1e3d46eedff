"""Findings of a study."""

from dataclasses import replace
from uuid import UUID

from haremile.bench.ports import ReadingBook, StudyBook
from haremile.core.findings import Findings, Plan, find


def study_findings(
    studies: StudyBook, readings: ReadingBook, study_id: UUID, with_aside: bool = False
) -> Findings:
    """Reckon what the study says so far; `with_aside` lets in what was set aside, to see whether
    it matters."""
    study = studies.get(study_id)
    names = {contender.lane_no: contender.label for contender in study.contenders}
    plan = Plan(study.margins, study.looks)
    observed = readings.observations(study_id)
    if with_aside:
        observed = [replace(item, is_set_aside=False) for item in observed]
    return find(names, observed, studies.outcomes(study_id), plan)
