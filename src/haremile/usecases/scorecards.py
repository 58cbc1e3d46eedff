"""The page of scorecards: what a tester says of a system, and what works on it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from haremile.core.records.library import Noun
from haremile.core.records.metrics import metric, value_text
from haremile.core.standing.scorecard import (
    Scorecard,
    Tie,
    TieKind,
    card_changes,
    overall_score,
)
from haremile.core.standing.works import (
    SUBJECTS,
    Works,
    WorksItem,
    newest,
    works_share,
    works_text,
)
from haremile.core.wording.numbers import count
from haremile.errors import BadInputError, HareMileError, NotFoundError
from haremile.usecases.compare import study_findings
from haremile.usecases.incidents import Named
from haremile.usecases.ports import (
    Incidents,
    KeptScorecard,
    ReadingRepository,
    Scorecards,
    StudyRepository,
    Things,
)

MOST_STUDIES = 12


@dataclass(frozen=True)
class ScorecardLine:
    """A system in the list; no version where nothing was said of it yet."""

    system: str
    system_id: UUID
    version: int | None
    at: datetime | None
    overall: str | None
    word: str | None
    tried: int
    works: int


@dataclass(frozen=True)
class ScorecardList:
    """All systems, those with a card first, the best first."""

    lines: Sequence[ScorecardLine]
    machines: Sequence[Named]


@dataclass(frozen=True)
class TieChoice:
    """Something that a point can rest on; `path` is its place on these pages."""

    tie: Tie
    says: str
    path: str


@dataclass(frozen=True)
class WorksLine:
    """A line of the works list; `low` and `high` are the share's interval where it was counted."""

    id: UUID
    subject: str
    machine: str | None
    machine_id: UUID | None
    works: Works
    says: str
    note: str
    at: datetime | None
    low: float | None
    high: float | None


@dataclass(frozen=True)
class CardVersion:
    """A version in the history, and what it says otherwise than the one before."""

    version: int
    at: datetime
    changes: Sequence[str]


@dataclass(frozen=True)
class ScorecardPage:
    """Everything that is said of one system; `card` is None where nothing is yet. `ties` holds what
    points rest on, None where it is gone since; in the order of the points."""

    system: str
    system_id: UUID
    card: Scorecard | None
    version: int
    at: datetime | None
    overall: str | None
    word: str | None
    headline: str
    sentence: str
    versions: Sequence[CardVersion]
    ties: Sequence[TieChoice | None]
    works: Sequence[WorksLine]
    untried: Sequence[str]


def scorecard_list(cards: Scorecards, things: Things) -> ScorecardList:
    """All systems with what is said of them."""
    kept = {one.system: one for one in cards.newest()}
    seen: dict[UUID, list[WorksItem]] = {}
    for item in newest(cards.works()):
        seen.setdefault(item.system, []).append(item)
    systems = [one for one in things.all(Noun.SYSTEM) if not one.is_put_away]
    lines = [
        _list_line(one.name, one.id, kept.get(one.id), seen.get(one.id, [])) for one in systems
    ]
    share = {key: _share(one.card) for key, one in kept.items()}
    lines.sort(
        key=lambda line: (line.version is None, -share.get(line.system_id, 0.0), line.system)
    )
    machines = [one for one in things.all(Noun.MACHINE) if not one.is_put_away]
    return ScorecardList(lines, [Named(one.id, one.name) for one in machines])


def _share(card: Scorecard) -> float:
    score = overall_score(card)
    return -1.0 if score is None else score / card.scale.top


def _list_line(
    name: str, key: UUID, kept: KeptScorecard | None, seen: Sequence[WorksItem]
) -> ScorecardLine:
    tried = [one for one in seen if one.works is not Works.NOT_TRIED]
    working = sum(one.works in (Works.WORKS, Works.STEP) for one in tried)
    overall, word = (None, None) if kept is None else _overall(kept.card)
    version, at = (None, None) if kept is None else (kept.version, kept.at)
    return ScorecardLine(name, key, version, at, overall, word, len(tried), working)


def _overall(card: Scorecard) -> tuple[str | None, str | None]:
    score = overall_score(card)
    return (None, None) if score is None else (card.scale.text(score), card.scale.word(score))


def scorecard_page(
    cards: Scorecards,
    things: Things,
    places: "TiePlaces",
    system: UUID,
    version: int | None = None,
) -> ScorecardPage:
    """What is said of a system, in its newest version or the one that is asked for.

    Raises
    ------
    NotFoundError
        If there is no such system, or no such version of its card.
    """
    thing = things.get(Noun.SYSTEM, system)
    kept = cards.versions(system)
    shown = next((one for one in kept if version is None or one.version == version), None)
    if shown is None and version is not None:
        raise NotFoundError("version of the scorecard", version)
    machines = {one.id: one.name for one in things.all(Noun.MACHINE)}
    lines = [_works_line(one, machines) for one in newest(cards.works(system))]
    lines.sort(key=lambda line: (line.machine or "", line.subject.casefold()))
    tried = {line.subject.casefold() for line in lines if line.works is not Works.NOT_TRIED}
    card = shown.card if shown else None
    overall, word = (None, None) if card is None else _overall(card)
    headline, sentence = _words(thing.name, card, overall, word, lines)
    return ScorecardPage(
        system=thing.name,
        system_id=thing.id,
        card=card,
        version=shown.version if shown else 0,
        at=shown.at if shown else None,
        overall=overall,
        word=word,
        headline=headline,
        sentence=sentence,
        versions=_history(kept),
        ties=[places.of(one.tie) for one in card.points] if card else [],
        works=lines,
        untried=[one for one in SUBJECTS if one.casefold() not in tried],
    )


def _history(kept: Sequence[KeptScorecard]) -> list[CardVersion]:
    before = [*kept[1:], None][: len(kept)]
    return [
        CardVersion(
            one.version, one.at, [] if older is None else card_changes(older.card, one.card)
        )
        for one, older in zip(kept, before, strict=True)
    ]


def _works_line(item: WorksItem, machines: Mapping[UUID, str]) -> WorksLine:
    share = works_share(item)
    interval = share.interval if share else None
    return WorksLine(
        item.id,
        item.subject,
        machines.get(item.machine) if item.machine else None,
        item.machine,
        item.works,
        works_text(item),
        item.note,
        item.at,
        interval.low if interval else None,
        interval.high if interval else None,
    )


def _words(
    name: str,
    card: Scorecard | None,
    overall: str | None,
    word: str | None,
    lines: Sequence[WorksLine],
) -> tuple[str, str]:
    tried = [line for line in lines if line.works is not Works.NOT_TRIED]
    failing = [line.subject for line in tried if line.works is Works.FAILS]
    works = sum(line.works in (Works.WORKS, Works.STEP) for line in tried)
    seen = f"{works} of {count(len(tried), 'thing')} tried work." if tried else "Nothing was tried."
    if failing:
        seen += f" It fails at: {', '.join(failing)}."
    if card is None:
        return f"{name} has no scorecard yet", seen
    if overall is None:
        missing = [one.name for one in card.criteria if one.score is None]
        need = f"No overall score while there is none for: {', '.join(missing)}." if missing else ""
        return f"{name}: not all criteria are judged", f"{need} {seen}".strip()
    said = f"{name}: {overall}" + (f", {word}" if word else "")
    number = len(card.criteria)
    mean = f"Mean of {number} criteria" if number > 1 else "One criterion"
    return said, f"{mean}, judged by the tester. {seen}"


class TiePlaces:
    """What points rest on, by name and place: looked up anew, so that what is gone is told."""

    def __init__(
        self,
        studies: StudyRepository,
        readings: ReadingRepository,
        cards: Scorecards,
        incidents: Incidents,
        things: Things,
        system: UUID,
    ):
        self._studies, self._readings = studies, readings
        self._cards, self._incidents = cards, incidents
        self._things, self._system = things, system
        self._known: dict[Tie, TieChoice] | None = None

    def all(self) -> list[TieChoice]:
        """Everything of the system that a point can rest on."""
        return list(self._all().values())

    def of(self, tie: Tie | None) -> TieChoice | None:
        """What a point rests on; None where it rests on nothing or that is gone."""
        return None if tie is None else self._all().get(tie)

    def checked(self, card: Scorecard, was: Scorecard | None) -> Scorecard:
        """The card, if its points rest on what is there, or what the card before said. Raises
        BadInputError."""
        before = {one.tie for one in was.points} if was else set()
        for point in card.points:
            if point.tie and point.tie not in before and point.tie not in self._all():
                raise BadInputError(f"{point.says}: it rests on a {point.tie.kind} that is gone")
        return card

    def _all(self) -> dict[Tie, TieChoice]:
        if self._known is None:
            found = [
                *self._of_studies(),
                *self._of_readings(),
                *self._of_photographs(),
                *self._of_incidents(),
            ]
            self._known = {one.tie: one for one in found}
        return self._known

    def _of_studies(self) -> list[TieChoice]:
        name = self._things.get(Noun.SYSTEM, self._system).name
        found = []
        for study, title in self._things.studies_of(self._system)[:MOST_STUDIES]:
            try:
                found += self._of_study(study, title, name)
            except HareMileError:  # a study without findings offers none
                continue
        return found

    def _of_study(self, study: UUID, title: str, name: str) -> list[TieChoice]:
        findings = study_findings(self._studies, self._readings, study)
        lanes = {
            one.lane_no
            for one in self._studies.get(study).contenders
            if one.install.system.name == name
        }
        path, found = f"/studies/{study}/findings", []
        for row in findings.rows:
            if not any(one.lane_no in lanes and one.summary is not None for one in row.lanes):
                continue
            tie = Tie(TieKind.FINDING, row.key, str(study))
            found.append(TieChoice(tie, f"{row.label}, {title}", path))
        return found

    def _of_readings(self) -> list[TieChoice]:
        return [
            TieChoice(
                Tie(TieKind.READING, str(one.id), str(one.study)),
                f"{metric(one.metric).label}: a reading of "
                f"{value_text(one.value, metric(one.metric).unit)}",
                f"/studies/{one.study}/findings",
            )
            for one in self._cards.middle_readings(self._system)
        ]

    def _of_photographs(self) -> list[TieChoice]:
        return [
            TieChoice(
                Tie(TieKind.PHOTOGRAPH, str(one.id), str(one.study)),
                f"photograph {one.name}",
                f"/studies/{one.study}/run",
            )
            for one in self._cards.photographs_of(self._system)
        ]

    def _of_incidents(self) -> list[TieChoice]:
        return [
            TieChoice(
                Tie(TieKind.INCIDENT, str(one.id)),
                f"{one.kind}: {one.what}" if one.what else str(one.kind),
                "/standings/incidents",
            )
            for one in self._incidents.incidents()
            if one.system == self._system
        ]
