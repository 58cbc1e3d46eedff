"""Intake: files from machines become runs of a study, looked at before anything is kept."""

import hashlib
from collections.abc import Mapping, Sequence
from contextlib import nullcontext
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from haremile.core.records.library import Aliases, Noun
from haremile.core.records.study import (
    Contender,
    Install,
    Machine,
    Study,
    StudyState,
    System,
    run_end,
)
from haremile.errors import BadInputError, CaptureConflictError, ConflictError
from haremile.formats.captures import (
    READINGS,
    Brought,
    facts_of,
    kind_of,
    parse_brought,
    readings_in,
)
from haremile.formats.column_map import ColumnMap, columns_of, map_text, missing
from haremile.formats.readings_csv import MOST_BYTES, is_understood
from haremile.usecases.import_readings import (
    checked_lanes,
    contender_key,
    file_notes,
    import_study,
    keep_lines,
    quietly,
    readings_capture,
    renamed_lines,
    step_notes,
)
from haremile.usecases.plan import checked_plan
from haremile.usecases.ports import (
    ColumnMaps,
    Library,
    NewAttempt,
    NewReading,
    Progress,
    ReadingRepository,
    StoredCapture,
    StudyRepository,
    Together,
)
from haremile_probe.interpret import WITHOUT_READINGS
from haremile_probe.interpret.launch import LaunchNote, parse_launches
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import Capture

File = tuple[str, bytes]

NEW_CONTENDER = -1
"""Chosen in place of a lane for what is to join the study."""


@dataclass(frozen=True)
class IntakeItem:
    """One thing recognised in the files, before it is taken in.

    `lane_no` is the contender it belongs to, None where nothing of the study fits: a person then
    says which. `is_known` tells that the same bytes are in the study already. `strangers` are
    those that take no part in the study, and may join it.
    """

    file: str
    kind: str
    asked: str
    system: str
    machine: str
    made_at: datetime | None
    outcome: str
    reason: str | None
    readings: int
    faults: tuple[str, ...]
    lane_no: int | None
    is_known: bool
    notes: tuple[str, ...] = ()
    strangers: tuple[str, ...] = ()


@dataclass(frozen=True)
class FileColumns:
    """A table of somebody's own: its columns, its first rows, and what they seem to mean.

    `missing` names what is still to be said; `is_remembered` tells that a person said it before.
    """

    file: str
    header: Sequence[str]
    rows: Sequence[Sequence[str]]
    meaning: ColumnMap
    missing: Sequence[str]
    is_remembered: bool


@dataclass(frozen=True)
class IntakeResult:
    """What became of the files; `notes` say what a person should look at."""

    study: Study
    taken: int
    known: int
    notes: tuple[str, ...] = ()


def file_columns(known: ColumnMaps, files: Sequence[File]) -> list[FileColumns]:
    """The columns of those files that are tables but none of ours, with what they seem to mean, or
    were said to mean before. Only their beginnings are looked at.

    Raises
    ------
    BadInputError
        If a file is no table at all.
    """
    found = []
    for name, body in files:
        if kind_of(body) == READINGS and not is_understood(body):
            seen = columns_of(body)
            before = known.known(seen.header)
            meant = before or seen.guess
            left = missing(meant, seen.header)
            found.append(FileColumns(name, seen.header, seen.rows, meant, left, before is not None))
    return found


class Intake:
    """Takes files into studies.

    Parameters
    ----------
    studies, readings, library, column_maps : the bench book
    together : callable
        Opens a stretch in which all is kept or nothing.
    progress : callable
        Told how far it is with a readings file.
    """

    def __init__(
        self,
        studies: StudyRepository,
        readings: ReadingRepository,
        library: Library,
        column_maps: ColumnMaps,
        together: Together = nullcontext,
        progress: Progress = quietly,
    ):
        self._studies, self._readings, self._library = studies, readings, library
        self._column_maps = column_maps
        self._together, self._progress = together, progress

    def preview(
        self, study_id: UUID, files: Sequence[File], column_map: ColumnMap | None = None
    ) -> list[IntakeItem]:
        """What the files hold and where it would go; nothing is kept. `column_map` says what the
        columns of tables mean that are none of ours; else what was said of them before holds.

        Raises
        ------
        BadInputError
            If a file is none that is known, or faulty.
        CaptureConflictError
            If a capture is known with other bytes.
        """
        study = self._started(study_id)
        brought = self._all_brought(files, column_map)
        known = self._known(study, brought)
        return [_item(one, study, _id_of(one, study) in known) for one in brought]

    def take_in(
        self,
        study_id: UUID,
        files: Sequence[File],
        lanes: Mapping[int, int] | None = None,
        column_map: ColumnMap | None = None,
    ) -> IntakeResult:
        """Keep everything that the files hold, and what their columns were said to mean.

        Parameters
        ----------
        study_id : UUID
        files : name and bytes of each
        lanes : mapping of position in the preview to the lane that a person chose
            `NEW_CONTENDER` where what takes no part yet is to join.

        Raises
        ------
        BadInputError
            As `preview`, and where a capture fits no contender and none was chosen. Nothing is
            then kept.
        """
        brought = self._all_brought(files, column_map)
        return self._take_in(self._started(study_id), brought, lanes or {})

    def _started(self, study_id: UUID) -> Study:
        """The study. Raises ConflictError where it is a draft: nobody takes part in it yet."""
        study = self._studies.get(study_id)
        if study.draft is not None:
            raise ConflictError("this study is a draft: start it, then bring its readings in")
        return study

    def _take_in(
        self, study: Study, brought: Sequence[Brought], lanes: Mapping[int, int]
    ) -> IntakeResult:
        known = self._known(study, brought)
        with self._together():
            study = self._joined(study, brought, lanes)
            chosen = {place: lane for place, lane in lanes.items() if lane != NEW_CONTENDER}
            placed = [
                (one, _lane(one, study, chosen.get(place))) for place, one in enumerate(brought)
            ]
            taken = sum(self._keep(study, one, lane) for one, lane in placed)
            self._remember(brought)
        notes = tuple(note for one in brought for note in _notes(one))
        return IntakeResult(self._studies.get(study.id), taken, len(known), notes)

    def _joined(self, study: Study, brought: Sequence[Brought], lanes: Mapping[int, int]) -> Study:
        """The study with everyone whom a person let join it."""
        for place, one in enumerate(brought):
            if lanes.get(place) == NEW_CONTENDER:
                for install in _strangers(one, study):
                    study = self._studies.join(study.id, install)
        return study

    def _remember(self, brought: Sequence[Brought]) -> None:
        for one in brought:
            if one.column_map is not None:
                self._column_maps.keep(columns_of(one.body).header, one.column_map)

    def _all_brought(
        self, files: Sequence[File], column_map: ColumnMap | None = None
    ) -> list[Brought]:
        if not files:
            raise BadInputError("no file was given")
        found: list[Brought] = []
        faults: list[str] = []
        known = self._library.aliases()
        for name, body in files:
            meant = self._meaning(body, column_map)
            try:
                parts = parse_brought(name, body, self._rows_read, meant)
                found += [_renamed(one, known) for one in parts]
            except BadInputError as error:
                faults.append(str(error))
        if faults:
            raise BadInputError("nothing was taken in.\n" + "\n".join(faults[:20]))
        return found

    def _rows_read(self, rows: int, of: int) -> None:
        self._progress("read", rows, of)

    def _meaning(self, body: bytes, asked: ColumnMap | None) -> ColumnMap | None:
        """What the columns of a table mean, where it is none of ours."""
        if len(body) > MOST_BYTES or kind_of(body) != READINGS or is_understood(body):
            return None
        return asked or self._column_maps.known(columns_of(body).header)

    def new_study(
        self, title: str, files: Sequence[File], column_map: ColumnMap | None = None
    ) -> IntakeResult:
        """Make a finished study of one readings file, or of captures: every system on a machine is
        then a contender.

        Raises
        ------
        BadInputError
            As `take_in`.
        """
        if len(files) == 1 and kind_of(files[0][1]) == READINGS:
            return self._new_of_readings(title, files[0], column_map)
        brought = self._all_brought(files)
        captures = [one.capture for one in brought if one.capture is not None]
        if len(captures) < len(brought):
            raise BadInputError("take in readings files and captures one kind at a time")
        names = list(dict.fromkeys((c.system, c.machine, "") for c in captures))
        installs = [Install(System(system), Machine(machine)) for system, machine, _ in names]
        plan = checked_plan(title, installs, 1, 0)
        self._known(None, brought)
        with self._together():
            study = self._studies.create(replace(plan, procedures=()))
            result = self._take_in(study, brought, {})
            self._studies.set_state(study.id, StudyState.DONE)
        return replace(result, study=self._studies.get(study.id))

    def _new_of_readings(
        self, title: str, file: File, column_map: ColumnMap | None
    ) -> IntakeResult:
        _, body = file
        meant = self._meaning(body, column_map)
        found = readings_in(body, self._rows_read, meant)
        lines = renamed_lines(found, self._library.aliases())
        brought = Brought(file[0], READINGS, body, None, lines, meant)
        before = self._readings.studies_with(hashlib.sha256(body).hexdigest())
        study = import_study(
            self._studies,
            self._readings,
            title,
            body,
            lines,
            together=self._together,
            progress=self._progress,
        )
        self._remember([brought])
        return IntakeResult(study, 1, 0, (*_twice_notes(before), *_notes(brought)))

    def _known(self, study: Study | None, brought: Sequence[Brought]) -> set[UUID]:
        """Ids of what is in the study already, with the same bytes.

        Raises
        ------
        CaptureConflictError
            If one is there with other bytes, or comes twice with different ones.
        """
        digests: dict[UUID, str] = {}
        for one in brought:
            if one.capture is None and study is None:
                continue
            key, digest = _id_of(one, study), hashlib.sha256(one.body).hexdigest()
            if digests.setdefault(key, digest) != digest:
                raise CaptureConflictError(f"{one.file}: capture {key} comes twice, unlike itself")
        known = self._readings.known_digests(list(digests))
        for key, digest in known.items():
            if digests[key] != digest:
                raise CaptureConflictError(f"capture {key} is known with other bytes")
        return set() if study is None else self._readings.held(study.id, list(known))

    def _keep(self, study: Study, one: Brought, lane_no: int | None) -> bool:
        if one.capture is None:
            return keep_lines(self._readings, study, one.body, one.lines, self._progress)
        capture = one.capture
        stored = StoredCapture(
            UUID(capture.id),
            hashlib.sha256(one.body).hexdigest(),
            datetime.fromisoformat(capture.made_at),
            one.kind,
            one.body,
        )
        attempts = [] if lane_no is None else _attempts(capture, lane_no)
        is_new = self._readings.take_in(study.id, stored, attempts)
        contender = next((c for c in study.contenders if c.lane_no == lane_no), None)
        if is_new and contender is not None:
            self._library.note_machine(contender.install.machine.name, facts_of(capture))
        return is_new


def _renamed(one: Brought, known: Aliases) -> Brought:
    """Under the present names of what was called otherwise before."""
    if one.capture is not None:
        system = known.get((Noun.SYSTEM, one.capture.system), one.capture.system)
        machine = known.get((Noun.MACHINE, one.capture.machine), one.capture.machine)
        return replace(one, capture=replace(one.capture, system=system, machine=machine))
    return replace(one, lines=renamed_lines(one.lines, known))


def _notes(one: Brought) -> tuple[str, ...]:
    """What a person should look at in how a file was understood."""
    said = () if one.column_map is None else (f"columns: {map_text(one.column_map)}",)
    return (*said, *file_notes(one.body, one.lines, is_mapped=bool(said)))


def _twice_notes(before: Sequence[str]) -> tuple[str, ...]:
    """What is said of a file whose very bytes made a study before."""
    if not before:
        return ()
    return (f"this very file is in the study “{before[0]}” already: its readings now stand twice",)


def _id_of(one: Brought, study: Study | None) -> UUID:
    if one.capture is not None:
        return UUID(one.capture.id)
    assert study is not None
    return readings_capture(study.id, one.body).id


def _item(one: Brought, study: Study, is_known: bool) -> IntakeItem:
    capture = one.capture
    if capture is None:
        systems = list(dict.fromkeys(line.system for line in one.lines))
        machines = list(dict.fromkeys(line.machine for line in one.lines))
        return IntakeItem(
            one.file,
            one.kind,
            "readings",
            ", ".join(systems),
            ", ".join(machines),
            None,
            "done",
            None,
            len(one.lines),
            (),
            None,
            is_known,
            (*_notes(one), *step_notes(one.lines)),
            tuple(map(_named, _strangers(one, study))),
        )
    found = _fitting(capture, study)
    return IntakeItem(
        file=one.file,
        kind=one.kind,
        asked=capture.asked,
        system=capture.system,
        machine=capture.machine,
        made_at=datetime.fromisoformat(capture.made_at),
        outcome=capture.outcome,
        reason=capture.reason,
        readings=len(capture.readings),
        faults=tuple(f"{fault.kind}: {fault.what}" for fault in capture.faults),
        lane_no=found.lane_no if found else None,
        is_known=is_known,
        strangers=tuple(map(_named, _strangers(one, study))),
    )


def _strangers(one: Brought, study: Study) -> list[Install]:
    """Whom a file names that takes no part in the study."""
    if one.capture is not None:
        if _fitting(one.capture, study) is not None:
            return []
        return [Install(System(one.capture.system), Machine(one.capture.machine))]
    lanes = {contender_key(contender) for contender in study.contenders}
    named = dict.fromkeys((line.system, line.machine, line.install) for line in one.lines)
    return [
        Install(System(system), Machine(machine), name=name)
        for system, machine, name in named
        if (system, machine, name) not in lanes
    ]


def _named(install: Install) -> str:
    own = f" ({install.name})" if install.name else ""
    return f"{install.system.name}{own} on {install.machine.name}"


def places_of(study: Study, captures: Sequence[Capture]) -> dict[int, int]:
    """That whoever takes no part in the study yet joins it, by the capture's place."""
    return {
        place: NEW_CONTENDER for place, one in enumerate(captures) if _fitting(one, study) is None
    }


def _fitting(capture: Capture, study: Study) -> Contender | None:
    """The only contender of that system and machine, told apart without regard to case."""
    named = (capture.system.casefold(), capture.machine.casefold())
    found = [
        one
        for one in study.contenders
        if (one.install.system.name.casefold(), one.install.machine.name.casefold()) == named
    ]
    return found[0] if len(found) == 1 else None


def _lane(one: Brought, study: Study, chosen: int | None) -> int | None:
    """The lane a capture goes into; None for what goes into none.

    Raises
    ------
    BadInputError
        If nothing fits and nobody chose, or the choice is no lane of the study.
    """
    if one.capture is None:
        checked_lanes(study, one.lines)
        return None
    if chosen is not None:
        if all(contender.lane_no != chosen for contender in study.contenders):
            raise BadInputError(f"{one.file}: this study has no contender {chosen}")
        return chosen
    found = _fitting(one.capture, study)
    if found is None:
        names = "; ".join(contender.label for contender in study.contenders)
        raise BadInputError(
            f"{one.file}: {one.capture.system} on {one.capture.machine} is none of the contenders "
            f"({names}); say which it is"
        )
    return found.lane_no


def _attempts(capture: Capture, lane_no: int) -> list[NewAttempt]:
    """One run for a capture; of launches one for each, so that a failed one stays a result."""
    if capture.asked in WITHOUT_READINGS:  # evidence of a machine, and no run
        return []
    base = NewAttempt(
        lane_no=lane_no,
        block=None,
        procedure=capture.asked,
        repeat=1,
        state=run_end(capture.outcome),
        reason=capture.reason,
        conditions=capture.conditions,
        readings=[],
        at=datetime.fromisoformat(capture.made_at),
        traces=capture.traces,
    )
    notes = _launches(capture)
    if not notes:
        return [
            replace(base, readings=[NewReading.of(r, capture.conditions) for r in capture.readings])
        ]
    return [
        replace(
            base,
            repeat=number,
            state=run_end(note.outcome),
            reason=note.reason,
            readings=[
                replace(NewReading.of(r, capture.conditions), step=0)
                for r in capture.readings
                if r.step == number - 1 and note.reason is None
            ],
        )
        for number, note in enumerate(notes, start=1)
    ]


def _launches(capture: Capture) -> Sequence[LaunchNote]:
    if capture.asked != "launch":
        return ()
    try:
        return parse_launches(capture.text_of("launches") or "").launches
    except UnreadableError:
        return ()  # a capture made by hand: its readings stand as one run's
