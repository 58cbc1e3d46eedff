"""The single readings behind what other studies found."""

from uuid import UUID

from haremile.usecases.ports import ReadingRepository, StoredReading, StudyRepository
from haremile.usecases.standings import MeasuredIn


class ReadElsewhere:
    """Readings of other studies, each study read once."""

    def __init__(self, studies: StudyRepository, readings: ReadingRepository):
        self._studies, self._readings = studies, readings
        self._names: dict[UUID, dict[int, set[str]]] = {}
        self._read: dict[tuple[UUID, str], list[StoredReading]] = {}

    def readings(self, found: MeasuredIn, metric_key: str, system: str) -> list[StoredReading]:
        """What a study read of a system, or of one of its installs by name, in that row of its
        verdict sheet."""
        if found.study not in self._names:
            study = self._studies.get(found.study)
            self._names[found.study] = {
                one.lane_no: {
                    one.install.system.name,
                    f"{one.install.system.name}, {one.install.name}",
                }
                for one in study.contenders
            }
        key = (found.study, metric_key)
        if key not in self._read:
            self._read[key] = self._readings.readings(*key)
        lanes = self._names[found.study]
        return [
            one
            for one in self._read[key]
            if one.row_key == found.row and system in lanes.get(one.lane_no, ())
        ]
