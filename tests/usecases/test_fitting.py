"""Which system for this machine, in the sample world."""

import pytest

from haremile.core.records.library import Noun, Source
from haremile.core.standing.fitting import Fit
from haremile.errors import NotFoundError, UnitError
from haremile.usecases.fitting import AskedFit, fits_page


@pytest.fixture(name="fits")
def fits_of_the_world(bench, world):
    def fits(**asked):
        return fits_page(
            bench.ever, bench.things, bench.weight_sets, bench.scorecards, AskedFit(**asked)
        )

    return fits


def own(page):
    return {line.system: line for line in page.lines}


def test_those_that_get_ready_fit_in_the_order_of_the_index(fits):
    found = fits(memory="1 GiB")
    fitting = [line for line in found.lines if line.fit is Fit.YES]
    assert [line.system for line in fitting[:2]] == ["Osterfell Base", "Quillfern 9-rc Tarnwick"]
    assert found.headline == "Osterfell Base fits, with the highest index"
    assert [line.index for line in fitting] == sorted((x.index for x in fitting), reverse=True)
    assert own(found)["Marlstone 26.1 Mossgate"].fit is Fit.NO


def test_a_maybe_names_what_would_settle_it(fits):
    line = own(fits(memory="1 GiB"))["Varrow 12 Thistlow"]
    assert line.fit is Fit.MAYBE and line.procedure == "least-memory"
    assert line.reasons[0].says.startswith("nobody tried it with 1 GiB; it uses")


def test_a_machine_of_the_library_says_its_memory_itself(bench, fits):
    (board,) = [m for m in bench.things.all(Noun.MACHINE) if m.name == "Field-kit board"]
    assert fits(machine=board.id).memory == 2 * 2.0**30


def test_space_is_looked_at_where_it_is_stated(fits):
    found = own(fits(memory="4 GiB", space="6 GiB"))
    assert found["Marlstone 26.1 Mossgate"].fit is Fit.NO
    assert any("of space, measured" in one.says for one in found["Osterfell Base"].reasons)


def test_what_has_to_work_decides_too(bench, fits):
    (laptop,) = [m for m in bench.things.all(Noun.MACHINE) if m.name == "Herbarium laptop"]
    found = own(fits(machine=laptop.id, needs=("sleep and wake",)))
    sometimes = found["Varrow 12 Tarnwick"]
    assert sometimes.fit is Fit.MAYBE and sometimes.tries == "sleep and wake"
    assert sometimes.reasons[-1].says == "sleep and wake works 18 times of 20"
    assert found["Quillfern 9-rc Tarnwick"].fit is Fit.NO
    assert found["Osterfell Base"].reasons[-1].says == (
        "sleep and wake was not tried on this machine"
    )


def test_claims_on_cores_are_looked_at(bench, fits):
    (system,) = [x for x in bench.things.all(Noun.SYSTEM) if x.name == "Osterfell Base"]
    bench.things.claim(system.id, "cores", 4.0, "1", False, Source("its page"))
    assert own(fits(cores=2.0))["Osterfell Base"].fit is Fit.NO
    assert own(fits(cores=4.0))["Osterfell Base"].fit is Fit.YES


def test_of_nothing_there_is_nothing_to_say(fits):
    assert fits().lines == [] and fits().headline == "Say what the machine has"


@pytest.mark.parametrize("wrong", ["4 s", "a lot", ""])
def test_what_is_no_size_is_refused(fits, wrong):
    with pytest.raises(UnitError):
        fits(memory=wrong)


def test_a_set_of_weights_that_is_not_there_is_not_found(bench, fits):
    (board,) = [m for m in bench.things.all(Noun.MACHINE) if m.name == "Field-kit board"]
    with pytest.raises(NotFoundError):
        fits(set_id=board.id)
