from haremile.usecases import compare as module
from haremile.usecases.compare import study_findings
from haremile.usecases.import_readings import import_study


def test_findings_are_calculated_once_for_each_content_and_never_out_of_date(bench, monkeypatch):
    rows = [
        f"{system},Laptop,boot.total,{base + i / 10},s"
        for system, base in (("Varrow 12", 10), ("Quillfern 8", 14))
        for i in range(8)
    ]
    body = "system,machine,metric,value,unit\n" + "\n".join(rows) + "\n"
    study = import_study(bench.studies, bench.readings, "Which?", body.encode())
    calculated = []
    real = module.find
    monkeypatch.setattr(module, "find", lambda *asked: calculated.append(1) or real(*asked))

    def median():
        (row,) = study_findings(bench.studies, bench.readings, study.id).rows
        return row.lanes[0].summary.median

    first = median()
    assert median() == first
    assert len(calculated) <= 1
    reading = min(bench.readings.readings(study.id), key=lambda item: item.value)
    bench.readings.set_aside(reading.id, "the lid was closed")
    assert median() != first
    bench.readings.set_aside(reading.id, None)
    before = len(calculated)
    assert median() == first
    assert len(calculated) == before, "the content of before is known"
