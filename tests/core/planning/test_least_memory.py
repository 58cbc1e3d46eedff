import pytest

from haremile.core.planning.least_memory import LeastMemorySearch, most_unseen
from haremile.errors import BadInputError

SIZES = (64, 128, 256, 512, 1024)


def searched(is_ready, sizes=SIZES, boots=3):
    """Run a search to its end; what was tried in order, and the search."""
    search, tried = LeastMemorySearch(sizes, boots), []
    while (size := search.next_size()) is not None:
        tried.append(size)
        search.note(size, is_ready(size, tried.count(size)))
    return tried, search


@pytest.mark.parametrize("least", SIZES)
def test_the_least_size_is_found_and_stands_all_its_boots(least):
    tried, search = searched(lambda size, _: size >= least)
    assert search.answer() == least
    assert tried[0] == SIZES[-1]
    assert tried.count(least) == 3
    below = SIZES.index(least) - 1
    assert search.below() == (SIZES[below] if below >= 0 else None)
    assert all(tried.count(size) == 1 for size in SIZES if size < least and size in tried)


def test_a_size_that_fails_once_in_three_is_no_answer():
    tried, search = searched(lambda size, boot: size >= 256 and not (size == 256 and boot == 3))
    assert search.answer() == 512
    assert tried.count(512) == 3
    assert search.below() == 256


def test_a_system_that_never_gets_ready_is_known_at_once():
    tried, search = searched(lambda size, boot: False)
    assert tried == [1024]
    assert search.answer() is None


def test_a_search_that_is_not_over_has_no_answer():
    search = LeastMemorySearch(SIZES, 3)
    search.note(1024, True)
    assert search.answer() is None
    assert search.next_size() == 128


@pytest.mark.parametrize("sizes", [(64,), (128, 64), (64, 64)])
def test_sizes_rise(sizes):
    with pytest.raises(BadInputError, match="no search over"):
        LeastMemorySearch(sizes, 3)


def test_three_boots_leave_up_to_63_per_cent_unseen():
    assert most_unseen(3) == pytest.approx(0.6316, abs=1e-4)
    assert most_unseen(59) < 0.05
