"""A person's reaction: how late a key is pressed after a signal that nobody can foresee.

The delay is the median of the answers (some come far too late, which would draw a mean); its
standard error that of a median, from the spread of the answers (Kendall & Stuart, The Advanced
Theory of Statistics, vol. 1, 10.10, for normal answers).
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from haremile.core.records.metrics import BY_HAND
from haremile.core.statistics.lane_statistics import MAD_TO_SD
from haremile.errors import BadInputError

LEAST_SIGNALS = 10
USUAL_SIGNALS = 15
FORESEEN_S, ASLEEP_S = 0.09, 1.5
"""Nobody answers a signal sooner than the one, nor later than the other while attending."""

UNKNOWN_S = 0.2
"""To this step a person is taken to time who has done no drill."""

MEDIAN_OVER_MEAN = math.sqrt(math.pi / 2)
Z95 = 1.959963984540054


@dataclass(frozen=True)
class Reaction:
    """How a person answers signals, in seconds.

    Attributes
    ----------
    delay_s : float
        Median of the answers.
    scatter_s : float
        Standard deviation of the answers, from their median absolute deviation.
    error_s : float
        Standard error of `delay_s`.
    signals : int
        Answers that count.
    left_out : int
        Those that came before a signal could be seen, or when nobody attended.
    """

    delay_s: float
    scatter_s: float
    error_s: float
    signals: int
    left_out: int

    def stated(self, times: int) -> str:
        """As a condition states it, where the delay was taken off so many times more than it was
        added; `error_of` reads it."""
        said = f"scatter {self.scatter_s:.3f} s over {self.signals} signals"
        if times == 0:
            return f"{self.delay_s:.3f} s, which cancels; {said}"
        often = "" if times == 1 else f" {times} times"
        error = Z95 * self.error_s * times
        return f"{self.delay_s:.3f} s taken off{often}, ± {error:.3f} s; {said}"


SCATTER = re.compile(r"scatter (\d+\.\d+) s")

NO_DRILL = "no drill: nothing taken off"


def reaction(answers_s: Sequence[float]) -> Reaction:
    """What a drill tells of a person.

    Parameters
    ----------
    answers_s : sequence of float
        Seconds from each signal to the press; negative where the press came before it.

    Raises
    ------
    BadInputError
        If fewer than `LEAST_SIGNALS` answers count.
    """
    counting = np.array([one for one in answers_s if FORESEEN_S <= one <= ASLEEP_S])
    if counting.size < LEAST_SIGNALS:
        raise BadInputError(
            f"{counting.size} of {len(answers_s)} signals were answered as one sees them; "
            f"{LEAST_SIGNALS} are needed. Do the drill again"
        )
    delay = float(np.median(counting))
    scatter = MAD_TO_SD * float(np.median(np.abs(counting - delay)))
    error = MEDIAN_OVER_MEAN * scatter / math.sqrt(counting.size)
    left_out = len(answers_s) - int(counting.size)
    return Reaction(delay, scatter, error, int(counting.size), left_out)


def error_of(stated: str | None) -> float:
    """The 95 % half-width of what was taken off, as a condition states it; 0 where none was."""
    if stated is None or "±" not in stated:
        return 0.0
    try:
        return float(stated.partition("±")[2].split()[0])
    except (ValueError, IndexError):
        return 0.0


def half_width(method: str, resolution: float | None, stated: str | None) -> float | None:
    """To which one reading is good on either side, in its unit; None where that is not known.

    Half of its step: of a frame, of the last place written, of a person who did no drill. After a
    drill it is what 95 % of the person's answers keep to.
    """
    if method not in BY_HAND:
        return None
    found = SCATTER.search(stated or "")
    if method == "hand" and found:
        return Z95 * float(found[1])
    return None if resolution is None else resolution / 2
