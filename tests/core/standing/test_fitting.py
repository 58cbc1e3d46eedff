"""Whether a system fits a machine."""

import pytest

from haremile.core.standing.fitting import (
    Fit,
    architecture_fits,
    memory_fits,
    overall,
    space_fits,
)

GIB = 2.0**30


@pytest.mark.parametrize(
    ("least", "idle", "claimed", "fit", "says"),
    [
        (0.75, 0.3, 2.0, Fit.YES, "gets ready with 768 MiB, measured"),
        (2.0, 0.3, 0.5, Fit.NO, "gets ready with 2 GiB, measured"),
        (None, 1.5, 0.5, Fit.NO, "uses 1.5 GiB when idle, measured"),
        (None, 0.4, 2.0, Fit.NO, "needs 2 GiB by its makers’ word, not measured"),
        (None, 0.4, 0.5, Fit.MAYBE, "512 MiB is enough by its makers’ word, not measured"),
        (None, 0.5, None, Fit.MAYBE, "nobody tried it with 1 GiB; it uses 512 MiB when idle"),
    ],
)
def test_what_was_measured_counts_before_what_is_said(least, idle, claimed, fit, says):
    amounts = [None if one is None else one * GIB for one in (least, idle, claimed)]
    found = memory_fits(GIB, *amounts)
    assert (found.fit, found.says) == (fit, says)
    assert (found.metric == "least.memory") == (fit is Fit.MAYBE)


def test_space_and_architecture_have_their_reasons():
    assert space_fits(8 * GIB, 6 * GIB, None).fit is Fit.YES
    assert space_fits(8 * GIB, 9 * GIB, 1 * GIB).fit is Fit.NO
    assert space_fits(8 * GIB, None, 20 * GIB).fit is Fit.NO
    assert space_fits(8 * GIB, None, None).metric == "disk.used"
    assert architecture_fits("x86-64", "X86-64 ").fit is Fit.YES
    assert architecture_fits("x86-64", "arm64").says == "made for arm64, not x86-64"
    assert architecture_fits("x86-64", None).fit is Fit.MAYBE


def test_one_no_is_a_no():
    yes, no = space_fits(8.0, 1.0, None), space_fits(8.0, 9.0, None)
    assert overall([yes, no, space_fits(8.0, None, None)]) is Fit.NO
    assert overall([yes]) is Fit.YES
