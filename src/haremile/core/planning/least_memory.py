"""Looking for the least memory in which a system still gets ready every time it is tried."""

from collections.abc import Sequence

from haremile.errors import BadInputError


class LeastMemorySearch:
    """Bisection over rising sizes: what to try next, and what came out.

    A size holds once it was ready as often as asked and never failed; one failure rules it out, and
    everything below with it. The largest is tried first, so that a system that never gets ready is
    known at once; on the way down one boot decides, and only the answer has to stand all of them.

    Parameters
    ----------
    sizes : sequence of int
        Rising, two at least.
    boots : int
        Of the answer, all of which have to get ready.
    """

    def __init__(self, sizes: Sequence[int], boots: int):
        if len(sizes) < 2 or list(sizes) != sorted(set(sizes)) or boots < 1:
            raise BadInputError(f"no search over {list(sizes)} with {boots} boots")
        self._sizes, self._boots = tuple(sizes), boots
        self._ready = dict.fromkeys(sizes, 0)
        self._highest_failed = -1

    def next_size(self) -> int | None:
        """The size of the next boot; None once the search is over."""
        if self._highest_failed == len(self._sizes) - 1:
            return None
        low, high = self._highest_failed, self._lowest_ready()
        if high is None:
            return self._sizes[-1]
        if high - low == 1:
            answer = self._sizes[high]
            return answer if self._ready[answer] < self._boots else None
        return self._sizes[(low + high) // 2]

    def note(self, size: int, is_ready: bool) -> None:
        """A boot with this size is over."""
        if is_ready:
            self._ready[size] += 1
        else:
            self._highest_failed = max(self._highest_failed, self._sizes.index(size))

    def answer(self) -> int | None:
        """The least size that holds, None where none does or the search is not over."""
        high = self._lowest_ready()
        if high is None or self.next_size() is not None:
            return None
        return self._sizes[high]

    def below(self) -> int | None:
        """The next smaller size, which failed; None where the answer is the smallest of all."""
        return self._sizes[self._highest_failed] if self._highest_failed >= 0 else None

    def _lowest_ready(self) -> int | None:
        """The smallest size above every failure that was ready at least once."""
        above = range(self._highest_failed + 1, len(self._sizes))
        return next((place for place in above if self._ready[self._sizes[place]]), None)


def most_unseen(boots: int, level: float = 0.95) -> float:
    """The largest share of failing boots that so many boots without a failure leave possible.

    Source: Clopper & Pearson, Biometrika 26, 1934, upper limit at no failure (one-sided).
    """
    return float(1.0 - (1.0 - level) ** (1.0 / boots))
