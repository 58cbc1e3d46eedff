"""The single readings behind what other studies found."""

from uuid import UUID

from haremile.usecases.ports import ReadingRepository, StoredReading, StudyRepository
from haremile.usecases.standings import MeasuredIn


class ReadElsewhere:
    """Readings of other studies, each study read once."""

    def __init__(self, studies: StudyRepository, readings: ReadingRepository):
        self._studies, self._readings = studies, readings
        self._systems: dict[UUID, dict[int, str]] = {}
        self._read: dict[tuple[UUID, str], list[StoredReading]] = {}

    def readings(self, found: MeasuredIn, metric_key: str, system: str) -> list[StoredReading]:
        """What a study read of a system in that row of its verdict sheet."""
        if found.study not in self._systems:
            study = self._studies.get(found.study)
            names = {one.lane_no: one.install.system.name for one in study.contenders}
            self._systems[found.study] = names
        key = (found.study, metric_key)
        if key not in self._read:
            self._read[key] = self._readings.readings(*key)
        lanes = self._systems[found.study]
        return [
            one
            for one in self._read[key]
            if one.row_key == found.row and lanes.get(one.lane_no) == system
        ]
