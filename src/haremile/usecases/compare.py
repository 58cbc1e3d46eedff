"""Findings of a study, calculated once for each content."""

import hashlib
import pickle
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from uuid import UUID

from haremile.core.comparison.findings import find
from haremile.core.comparison.records import FindingRow, Findings, Plan
from haremile.core.records.draft import Order
from haremile.core.records.study import entrants
from haremile.core.wording.answer import answer_of
from haremile.core.wording.findings import in_words
from haremile.errors import BadInputError
from haremile.usecases.ports import ReadingRepository, StudyRepository

MOST_KEPT = 24


@dataclass(frozen=True)
class KeptFindings:
    """Findings, told from others by the digest of everything that went into them; `curves` are the
    metrics of which some run has one."""

    digest: bytes
    findings: Findings = field(compare=False)
    curves: tuple[str, ...] = ()


_kept: OrderedDict[bytes, KeptFindings] = OrderedDict()
_known: OrderedDict[tuple[object, ...], bytes] = OrderedDict()
"""The digest of what stood at a study's last change."""

_guard = threading.Lock()
_under_way: dict[tuple[object, ...], threading.Lock] = {}
"""Held by who calculates: whoever asks for the same meanwhile waits instead of calculating too."""


def study_findings(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID, with_aside: bool = False
) -> Findings:
    """As `kept_findings`, the findings alone."""
    return kept_findings(studies, readings, study_id, with_aside).findings


def kept_findings(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID, with_aside: bool = False
) -> KeptFindings:
    """Calculate what the study says so far; `with_aside` lets in what was set aside, to see whether
    it matters.

    What was calculated is kept by a digest of everything that went into it, so that it can be out
    of date in no way: another reading, reason, margin or look is another digest. As long as nothing
    has happened in the study since, its digest is known, and nothing has to be read.
    """
    last = studies.last_change(study_id)
    since = (study_id, with_aside, last)
    with _guard:
        known = _known_since(since)
        if known is not None:
            return known
        turn = _under_way.setdefault(since, threading.Lock())
    with turn:
        with _guard:
            known = _known_since(since)
            if known is not None:
                return known
        try:
            found = _found(studies, readings, study_id, with_aside)
            if not with_aside:
                studies.keep_answer(study_id, last[0], answer_of(found.findings))
            with _guard:
                _known[since] = found.digest
                while len(_known) > MOST_KEPT:
                    _known.popitem(last=False)
        finally:
            with _guard:
                _under_way.pop(since, None)
    return found


def row_of(rows: Sequence[FindingRow], key: str) -> FindingRow:
    """The row of a verdict sheet with that key.

    Raises
    ------
    BadInputError
        If there is none.
    """
    for row in rows:
        if row.key == key:
            return row
    raise BadInputError(f"this study has no row {key}")


def refresh_answer(studies: StudyRepository, readings: ReadingRepository, study_id: UUID) -> None:
    """Keep what a study answers now, also where its findings are known already.

    Raises
    ------
    NotFoundError
        If there is no such study.
    """
    event_id, _ = studies.last_change(study_id)
    found = kept_findings(studies, readings, study_id)
    studies.keep_answer(study_id, event_id, answer_of(found.findings))


def _known_since(since: tuple[object, ...]) -> KeptFindings | None:
    """What was calculated of this state; the guard is held."""
    known = _kept.get(_known.get(since, b""))
    if known is not None:
        _kept.move_to_end(known.digest)
    return known


def _found(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID, with_aside: bool
) -> KeptFindings:
    study = studies.get(study_id)
    names = {lane: one.name for lane, one in entrants(study.contenders).items()}
    is_in_a_row = study.order is Order.VISITS
    plan = Plan(study.margins, study.interim_looks, study.overrides, is_in_a_row)
    observed = readings.observations(study_id)
    if with_aside:
        observed = [replace(item, is_set_aside=False) for item in observed]
    outcomes = studies.outcomes(study_id, with_aside)
    curves = tuple(readings.traced(study_id))
    digest = hashlib.sha256(pickle.dumps((names, observed, outcomes, plan, curves))).digest()
    with _guard:
        if digest in _kept:
            _kept.move_to_end(digest)
            return _kept[digest]
    found = KeptFindings(digest, in_words(find(names, observed, outcomes, plan), names), curves)
    with _guard:
        _kept[digest] = found
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return found
