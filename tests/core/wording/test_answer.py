from haremile.core.comparison.findings import find
from haremile.core.comparison.records import Findings, Observation, Plan
from haremile.core.records.margin import Margin
from haremile.core.wording.answer import answer_of
from haremile.core.wording.findings import in_words


def readings(lane, machine, low):
    return [
        Observation(lane, machine, "boot.total", "serial", low + i / 10, {}, "boot", block=i + 1)
        for i in range(10)
    ]


def answered(observed, names):
    found = find(names, observed, [], Plan({"boot.total": Margin(amount=0.5)}))
    return answer_of(in_words(found, names))


def test_the_first_measure_answers_with_who_is_ahead_and_where():
    observed = [*readings(1, "Laptop", 10.0), *readings(2, "Laptop", 14.0)]
    answer = answered(observed, {1: "Varrow 12", 2: "Quillfern 8"})
    assert answer.headline == "Varrow 12 ahead by 4.0 s"
    assert (answer.about, answer.verdict) == ("Power-on to ready, Laptop", "ahead")


def test_several_machines_answer_together():
    observed = [
        reading
        for machine, first in (("Laptop", 1), ("Board", 3))
        for lane, low in ((first, 10.0), (first + 1, 14.0))
        for reading in readings(lane, machine, low)
    ]
    names = {1: "Varrow 12", 2: "Quillfern 8", 3: "Varrow 12", 4: "Quillfern 8"}
    answer = answered(observed, names)
    assert answer.about == "Power-on to ready, 2 machines"
    assert "Varrow 12" in answer.headline


def test_without_readings_it_says_so():
    assert answer_of(Findings((), (), (), True)).headline == "Nothing was measured yet"


def test_those_who_are_level_and_ahead_of_the_rest_share_the_first_place():
    observed = [
        *readings(1, "Laptop", 10.0),
        *readings(2, "Laptop", 10.05),
        *readings(3, "Laptop", 14.0),
    ]
    names = {1: "Varrow 12", 2: "Quillfern 8", 3: "Marlstone 26.1"}
    found = in_words(find(names, observed, [], Plan({"boot.total": Margin(amount=0.9)})), names)
    (row,) = found.rows
    assert row.headline == "Varrow 12 and Quillfern 8 share the first place"
    assert "share the first place: they differ by less than the margin (0.9 s)" in row.sentence
    assert row.verdict_text == "shared"
