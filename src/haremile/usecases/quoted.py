"""A figure from elsewhere: an earlier review, a usual range. It stands beside a row of the verdict
sheet with its source and its date, and enters no verdict."""

import re
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from haremile.core.by_hand.amounts import read_amount
from haremile.core.records.metrics import check_possible, metric
from haremile.core.records.study import Study
from haremile.errors import BadInputError
from haremile.usecases.ports import Quoted

DATED = re.compile(r"(\d{4})(?:-(\d{2}))?(?:-(\d{2}))?")


@dataclass(frozen=True)
class Quote:
    """A figure as a person quotes it.

    Attributes
    ----------
    row_key : str
        Of the verdict sheet.
    text, text_to : str
        The figure as written, or both ends of a range; the second is empty for one figure.
    unit : str or None
        Taken where the figure names none.
    dated : str
        ``2025``, ``2025-06`` or ``2025-06-14``.
    """

    id: UUID
    lane_no: int
    row_key: str
    text: str
    text_to: str
    unit: str | None
    source: str
    dated: str


def quoted_figure(quote: Quote, study: Study, now: datetime) -> Quoted:
    """The figure that is kept of a quote.

    Raises
    ------
    BadInputError
        If it is no figure of this measure, a range the wrong way round, or dated in the future.
    UnknownMetricError
    """
    known = metric(quote.row_key.partition("|")[0])
    if quote.lane_no not in {one.lane_no for one in study.contenders}:
        raise BadInputError(f"there is no contender {quote.lane_no} in this study")
    texts = [quote.text, *([quote.text_to] if quote.text_to.strip() else [])]
    low, high = (read_amount(text, known.unit, quote.unit).value for text in (texts[0], texts[-1]))
    if low > high:
        raise BadInputError("the range is the wrong way round: from the smaller to the larger")
    check_possible(known, high, {})
    _check_date(quote.dated, now.date())
    return Quoted(
        id=quote.id,
        study_id=study.id,
        lane_no=quote.lane_no,
        row_key=quote.row_key,
        metric=known.key,
        low=low,
        high=high,
        unit=known.unit,
        source=quote.source,
        dated=quote.dated,
        at=now,
    )


def _check_date(dated: str, today: date) -> None:
    found = DATED.fullmatch(dated)
    try:
        if found is None:
            raise ValueError
        year, month, day = (int(part or 1) for part in found.groups())
        begins = date(year, month, day)
    except ValueError:
        raise BadInputError(
            f"{dated!r} is no date; write a year, a month or a day: 2025, 2025-06 or 2025-06-14"
        ) from None
    if begins > today:
        raise BadInputError(f"{dated} has not been yet")
