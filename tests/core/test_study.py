from haremile.core.study import RunState


def test_only_failed_and_void_runs_can_be_planned_again():
    again = {state for state in RunState if state.can_be_planned_again}
    assert again == {RunState.FAILED, RunState.VOID}


def test_what_is_under_way_is_not_finished():
    for state in RunState:
        assert not (state.is_under_way and state.is_finished)
    assert not RunState.PLANNED.is_finished
