"""Studies that are not started yet: made, copied, kept as typed, started."""

from collections.abc import Sequence
from uuid import UUID

from haremile.core.records.draft import Draft
from haremile.core.records.study import Install, Study, StudyState
from haremile.errors import BadInputError, ConflictError
from haremile.usecases.outlook import usual_order
from haremile.usecases.plan import checked_plan, with_own_margins
from haremile.usecases.ports import Library, OwnMeasures, StudyRepository


def copied_draft(studies: StudyRepository, study_id: UUID, title: str) -> Study:
    """The plan of a study as a draft under another title, in a fresh order; none of its runs.

    Raises
    ------
    NotFoundError
        If there is no such study.
    ConflictError
        If it was never planned here: its readings were brought in.
    """
    study = studies.get(study_id)
    if study.draft is not None:
        return studies.create_draft(title, study.draft)
    if not study.procedures:
        raise ConflictError("this study was made of files: there is no plan to do again")
    looks = study.interim_looks.planned if study.interim_looks else ()
    keys = [one.install.id for one in study.contenders if one.install.id is not None]
    draft = Draft(
        installs=tuple(keys),
        procedures=study.procedures,
        blocks=looks[-1] if looks else study.blocks,
        margins=dict(study.margins),
        interim_looks=looks,
        stopping=study.stopping,
        order=study.order,
    )
    return studies.create_draft(title, draft)


def start_draft(
    studies: StudyRepository, library: Library, own: OwnMeasures, study_id: UUID
) -> Study:
    """Make a study of a draft, with its run sheet.

    Raises
    ------
    BadInputError
        With a sentence that names what is still missing or not valid.
    ConflictError
        If it was started already.
    """
    study = studies.get(study_id)
    draft = study.draft
    if draft is None or study.state is not StudyState.DRAFT:
        raise ConflictError("this study was started already: its plan stands")
    installs = chosen_installs(library, draft.installs)
    idle = [one for one in installs if one.rig is None]
    if idle:
        where = f"{idle[0].system.name} on {idle[0].machine.name}"
        raise BadInputError(f"nothing operates {where}: it cannot be started from here")
    plan = checked_plan(
        study.title,
        installs,
        draft.blocks,
        draft.seed,
        with_own_margins(draft.margins, draft.procedures, own.all()),
        draft.interim_looks,
        draft.procedures,
        draft.stopping,
        draft.order or usual_order(installs),
    )
    return studies.start(study_id, plan)


def chosen_installs(library: Library, asked: Sequence[UUID]) -> list[Install]:
    """The installs of these ids. Raises BadInputError where there is none."""
    known = {install.id: install for install in library.installs()}
    missing = [str(key) for key in asked if key not in known]
    if missing:
        raise BadInputError(f"no install {missing[0]}; it may have been put away")
    return [known[key] for key in asked]
