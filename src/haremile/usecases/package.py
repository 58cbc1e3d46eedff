"""Studies, or the whole bench book, handed on as one data package and taken in."""

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from uuid import UUID

from haremile.core.wording.answer import answer_of
from haremile.errors import BadInputError
from haremile.formats.data_package import Package, read_package, write_package
from haremile.formats.report_page import Stamp, index_page
from haremile.usecases.compare import study_findings
from haremile.usecases.ports import PackageChoices, Packages, PackageTaken
from haremile.usecases.publish import Publishing, content_hash
from haremile.usecases.report import study_report

README = """{title}

Handed on by {origin}, {at}.

index.html              to be read in a browser, without any server
datapackage.json        what stands where: a Frictionless data package
data/*.csv              all tables, UTF-8; \\N is nothing, an empty cell an empty text
files/SHA256            evidence, each named by the sha256 of its bytes

Take it into another bench book with: haremile package import FILE
Commands that stand in data/install.csv are run by nobody before a person approved them.
"""


def hand_on(
    packages: Packages,
    publishing: Publishing,
    studies: Sequence[UUID] | None,
    origin_name: str,
    at: datetime,
    target: Path,
) -> None:
    """Write studies, or with None the whole bench book, as one package.

    Raises
    ------
    NotFoundError
        If there is no such study.
    """
    tables = packages.tables(studies)
    listed = next(one for one in tables if one.name == "study")
    keys = [row["id"] for row in listed.lines()]
    pages, lines = {}, []
    for key in keys:
        title, answer, body = _page(publishing, key, at)
        name = f"pages/{key}.html" if body else ""
        if body:
            pages[name] = body
        lines.append((title, answer, name))
    title = lines[0][0] if studies is not None and len(lines) == 1 else "A bench book"
    pages["index.html"] = index_page(title, origin_name, at, lines)
    said = README.format(title=title, origin=origin_name, at=at.isoformat())
    pages["README.md"] = said.encode()
    package = Package(title, packages.bench(), origin_name, at, tuple(tables), pages)
    write_package(package, target)


def _page(publishing: Publishing, study_id: UUID, at: datetime) -> tuple[str, str, bytes]:
    """Title, answer and page of a study; a draft, or one without findings, has no page."""
    sources = publishing.sources
    study = sources.studies.get(study_id)
    if study.draft is not None:
        return study.title, "a draft", b""
    try:
        answer = answer_of(study_findings(sources.studies, sources.readings, study_id)).headline
        content = publishing.content_of(study_report(sources, study_id))
    except BadInputError as refused:  # too much for one page: the tables hold it all
        return study.title, str(refused), b""
    stamp = Stamp(sources.reports.newest(study_id), at, content_hash(content), ())
    return study.title, answer, publishing.page_of(content, stamp)


def take_package(
    packages: Packages, file: Path, choices: PackageChoices, is_kept: bool
) -> PackageTaken:
    """Take a package in, or only look at what it would bring.

    Raises
    ------
    BadInputError
        If it is no package, or holds what its schema does not say.
    ConflictError
        If it does not fit what is here.
    """
    with file.open("rb") as opened:
        package = read_package(opened, packages.known())
    return packages.take_in(package, choices) if is_kept else packages.look(package, choices)
