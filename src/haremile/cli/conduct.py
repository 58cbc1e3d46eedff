"""``haremile conduct``: one more conductor on the bench book."""

from typing import Annotated

import typer

from haremile.cli.session import bench, say
from haremile.cli.study import study_named
from haremile.core.records.study import StudyState
from haremile.errors import ConflictError


def conduct(
    name: Annotated[
        str | None, typer.Argument(help="A study's id, or a part of its title; else all that run.")
    ] = None,
) -> None:
    """Work on studies that run, beside whoever else does, until they are done or paused.

    With DATABASE_URL set, from any host: several conductors share the machines of one bench book.
    """
    with bench() as opened:
        if name is not None:
            chosen = [study_named(opened, name).id]
        else:
            chosen = [
                digest.id
                for digest in opened.studies.digests()
                if digest.state is StudyState.RUNNING and digest.can_run
            ]
        if not chosen:
            raise ConflictError("no study is running; name one to begin with")
        for study_id in chosen:
            opened.runner.start(study_id)
            say(f"at work on {opened.studies.get(study_id).title}")
        opened.runner.join()
        for study_id in chosen:
            study = opened.studies.get(study_id)
            typer.echo(f"{study.id}\t{study.state}")
