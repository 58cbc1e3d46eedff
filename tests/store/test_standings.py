"""Readings of all studies: kept while nothing happens, read again as soon as something does."""

from haremile.core.records.library import Noun

HERBARIUM = "Which edition boots the Herbarium laptop soonest?"


def test_what_happened_in_a_study_is_seen_at_once_and_the_rest_is_kept(bench, world):
    question = next(one for one in bench.ever.questions() if one.metric == "memory.used")
    before = bench.ever.measured(question)
    study = world[HERBARIUM].id
    for one in bench.readings.readings(study, "memory.used")[:6]:
        bench.readings.set_aside(one.id, "the door stood open")
    after = bench.ever.measured(question)
    assert [arm.study for arm in after] == [arm.study for arm in before]
    for was, now in zip(before, after, strict=True):
        assert (now is was) is (was.study != study)
    counts = [sum(len(a.values) for a in arms if a.study == study) for arms in (before, after)]
    assert counts[0] - counts[1] == 6


def test_names_and_what_is_put_away_are_seen_at_once(bench, world):
    question = next(one for one in bench.ever.questions() if one.metric == "memory.used")
    known = {arm.system for arm in bench.ever.measured(question)}
    system = next(one for one in bench.things.all(Noun.SYSTEM) if one.name in known)
    bench.things.rename(Noun.SYSTEM, system.id, "Another name")
    assert {arm.system for arm in bench.ever.measured(question)} == (
        known - {system.name} | {"Another name"}
    )
    bench.things.put_away(Noun.SYSTEM, system.id, True)
    assert {arm.system for arm in bench.ever.measured(question)} == known - {system.name}
    studies = {arm.study for arm in bench.ever.measured(question)}
    bench.corrections.put_study_away(world[HERBARIUM].id, True)
    left = {arm.study for arm in bench.ever.measured(question)}
    assert left == studies - {world[HERBARIUM].id}
