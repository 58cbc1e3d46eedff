from uuid import uuid4

from haremile.core.records.study import (
    Contender,
    Install,
    Machine,
    RunState,
    System,
    entrants,
    install_labels,
)


def test_only_failed_and_void_runs_can_be_planned_again():
    again = {state for state in RunState if state.can_be_planned_again}
    assert again == {RunState.FAILED, RunState.VOID}


def test_what_is_under_way_is_not_finished():
    for state in RunState:
        assert not (state.is_under_way and state.is_finished)
    assert not RunState.PLANNED.is_finished


def installs(*seats):
    return [Install(System(system), Machine(machine), name) for system, machine, name in seats]


def test_labels_are_as_short_as_tells_installs_apart():
    one = installs(("Varrow 12", "Laptop", ""), ("Varrow 12", "Laptop", "live"))
    assert install_labels(one) == ["Varrow 12", "Varrow 12 (live)"]
    two = installs(("Varrow 12", "Laptop", ""), ("Varrow 12", "Board", ""))
    assert install_labels(two) == ["Varrow 12 on Laptop", "Varrow 12 on Board"]


def test_who_runs_on_several_machines_is_one_entrant_with_a_lane_on_each():
    made = installs(
        ("Varrow 12", "Laptop", ""), ("Quillfern 8", "Laptop", ""), ("Varrow 12", "Board", "")
    )
    cast = [Contender(uuid4(), i, one, "") for i, one in enumerate(made, start=1)]
    found = entrants(cast)
    assert [found[lane].no for lane in (1, 2, 3)] == [1, 2, 1]
    assert found[3].name == "Varrow 12"
