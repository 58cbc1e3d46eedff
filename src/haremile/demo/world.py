"""The sample world: a seed bank that outfits the terminals of its field stations.

Everything that is true of it stands in this file, so that a test can ask whether the findings
recover it. Nothing here is real.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime

from haremile.core.records.margin import Margin
from haremile.core.records.study import Machine, System
from haremile.core.records.units import MIB
from haremile.core.simulation.machine import LaneTruth, MetricTruth
from haremile.core.standing.bands import Bands

GIB = 2.0**30
KIB = 2.0**10

MACHINES = {
    "Germination-room mini PC": Machine(
        "Germination-room mini PC",
        "physical",
        None,
        {"cores": "4", "memory": "8 GiB", "storage": "NVMe"},
    ),
    "Herbarium laptop": Machine(
        "Herbarium laptop",
        "physical",
        None,
        {"cores": "2", "memory": "4 GiB", "storage": "SATA SSD"},
    ),
    "Field-kit board": Machine(
        "Field-kit board",
        "physical",
        None,
        {"cores": "4 small", "memory": "2 GiB", "storage": "microSD"},
    ),
    "One-gig guest": Machine(
        "One-gig guest",
        "simulated",
        "One-gig guest",
        {"cores": "2", "memory": "1 GiB", "storage": "virtual disk"},
    ),
    "Seed-vault till": Machine(
        "Seed-vault till",
        "physical",
        None,
        {"cores": "2", "memory": "2 GiB", "storage": "SATA SSD"},
    ),
    "Guest of any memory": Machine(
        "Guest of any memory",
        "simulated",
        "Guest of any memory",
        {"cores": "2", "storage": "virtual disk"},
    ),
}

SYSTEMS = {
    "Varrow 12 Thistlow": System("Varrow 12 Thistlow", "Varrow", "12", "Thistlow"),
    "Varrow 12 Tarnwick": System("Varrow 12 Tarnwick", "Varrow", "12", "Tarnwick"),
    "Marlstone 26.1 Thistlow": System("Marlstone 26.1 Thistlow", "Marlstone", "26.1", "Thistlow"),
    "Marlstone 26.1 Mossgate": System("Marlstone 26.1 Mossgate", "Marlstone", "26.1", "Mossgate"),
    "Quillfern 8 Tarnwick": System("Quillfern 8 Tarnwick", "Quillfern", "8", "Tarnwick"),
    "Quillfern 9-rc Tarnwick": System("Quillfern 9-rc Tarnwick", "Quillfern", "9-rc", "Tarnwick"),
    "Osterfell Base": System("Osterfell Base", "Osterfell", None, "Base"),
    "Varrow 10 Tarnwick": System("Varrow 10 Tarnwick", "Varrow", "10", "Tarnwick"),
    "Varrow 10 Thistlow": System("Varrow 10 Thistlow", "Varrow", "10", "Thistlow"),
    "Varrow 11 Tarnwick": System("Varrow 11 Tarnwick", "Varrow", "11", "Tarnwick"),
    "Varrow 11 Thistlow": System("Varrow 11 Thistlow", "Varrow", "11", "Thistlow"),
    "Quillfern 6 Tarnwick": System("Quillfern 6 Tarnwick", "Quillfern", "6", "Tarnwick"),
    "Quillfern 7 Tarnwick": System("Quillfern 7 Tarnwick", "Quillfern", "7", "Tarnwick"),
    "Marlstone 24.2 Thistlow": System("Marlstone 24.2 Thistlow", "Marlstone", "24.2", "Thistlow"),
    "Marlstone 25.1 Mossgate": System("Marlstone 25.1 Mossgate", "Marlstone", "25.1", "Mossgate"),
    "Sallowby 3 Tarnwick": System("Sallowby 3 Tarnwick", "Sallowby", "3", "Tarnwick"),
    "Ferncastle 7 Mossgate": System("Ferncastle 7 Mossgate", "Ferncastle", "7", "Mossgate"),
    "Hollowmere 1 Mossgate": System("Hollowmere 1 Mossgate", "Hollowmere", "1", "Mossgate"),
    "Hollowmere 2 Mossgate": System("Hollowmere 2 Mossgate", "Hollowmere", "2", "Mossgate"),
}

KERNELS = {
    "Varrow": "6.12",
    "Marlstone": "6.14",
    "Quillfern": "6.14",
    "Osterfell": "6.1",
    "Sallowby": "6.6",
    "Ferncastle": "6.8",
    "Hollowmere": "6.1",
}


@dataclass(frozen=True)
class LaunchTruth:
    """Opening Wayfarrow, the browser: first after boot, and warm."""

    first_after_boot: MetricTruth
    warm: MetricTruth
    app_version: str = "41"


@dataclass(frozen=True)
class Faults:
    """What befalls a lane: boots that stall."""

    stall_share: float = 0.0
    stall_s: float = 0.0


@dataclass(frozen=True)
class UnitTruth:
    """A unit of the service manager: when it starts and is ready, as shares of userspace."""

    name: str
    start: float
    ready: float


@dataclass(frozen=True)
class Seat:
    """Where a lane's contender sits."""

    system: str
    machine: str
    install: str = ""


@dataclass(frozen=True)
class StudyTruth:
    """One study of the sample world; a lane is named by its system, and where that leaves it open
    as ``SYSTEM, INSTALL`` or ``SYSTEM on MACHINE``."""

    title: str
    machine: str
    lanes: Mapping[str, LaneTruth]
    seed: int
    blocks: int = 20
    done_runs: int | None = None
    """How many runs of the sheet are in; None for all."""
    ended_after: int | None = None
    """The block at which it ended itself, its verdicts being read after every block."""
    launches: Mapping[str, LaunchTruth] = field(default_factory=dict)
    margins: Mapping[str, Margin] = field(default_factory=dict)
    set_aside: tuple[str, int, str, str] | None = None
    """System, block, metric and reason of the one reading that a person set aside."""
    overrides: Mapping[str, str] = field(default_factory=dict)
    procedures: Sequence[str] = ("boot",)
    """What each run of the sheet does; nothing where all of it was brought in as a file."""
    months: bool = False
    """Whether its blocks are spread over months, four in each."""
    began: datetime | None = None
    """When its first run was made; None for the morning on which all the rest began."""
    units: Mapping[str, Sequence[UnitTruth]] = field(default_factory=dict)
    """What runs in the boots of a machine; such a study comes in as captures of the probe."""

    def seat(self, lane: str) -> Seat:
        """Who sits in a lane, and where."""
        who, _, machine = lane.partition(" on ")
        system, _, install = who.partition(", ")
        return Seat(system, machine or self.machine, install)


def _boot(
    firmware: float,
    kernel: float,
    userspace: float,
    noise: float,
    *,
    first_run: float = 1.8,
    second_mode: float = 0.0,
    second_share: float = 0.0,
    drift: float = 0.0,
) -> dict[str, MetricTruth]:
    return {
        "boot.firmware": MetricTruth(firmware, 0.02, step=0.001),
        "boot.kernel": MetricTruth(kernel, noise * 0.25, skew=0.3, step=0.001),
        "boot.userspace": MetricTruth(
            userspace,
            noise,
            skew=0.5,
            first_run=first_run,
            second_mode=second_mode,
            second_share=second_share,
            step=0.001,
            drift=drift,
        ),
    }


def _idle(
    used_mib: float, cache_mib: float, swap_mib: float, disk_gib: float, processes: int
) -> dict[str, MetricTruth]:
    return {
        "memory.used": MetricTruth(used_mib * MIB, 3.2 * MIB, skew=0.3, step=KIB),
        "memory.used_nocache": MetricTruth((used_mib - cache_mib) * MIB, 3.0 * MIB, step=KIB),
        "memory.swap_used": MetricTruth(swap_mib * MIB, 1.5 * MIB * (swap_mib > 0), step=KIB),
        "disk.used": MetricTruth(disk_gib * GIB, 1.2 * MIB, step=4 * KIB),
        "process.count": MetricTruth(processes, 1.2, step=1.0),
    }


def _lane(
    system: str,
    boot: Mapping[str, MetricTruth],
    idle: Mapping[str, MetricTruth],
    failure_share: float = 0.0,
    failure_reason: str = "hung: the desktop never came",
    faults: "Faults | None" = None,
    **conditions: str,
) -> LaneTruth:
    made = SYSTEMS[system.partition(" on ")[0].partition(", ")[0]]
    stated = {
        "medium": "installed",
        "autologin": "yes",
        "power": "mains",
        "recorder": "none",
        "updates_pending": "0",
        "kernel": KERNELS[made.distribution or ""],
        "settle_rule": "window 60 s, drift 0.5%, range 2.0%, at most 300 s",
        "switching": "next-entry",
        **conditions,
    }
    made_faults = faults or Faults()
    return LaneTruth({**boot, **idle}, failure_share, failure_reason, stated, **vars(made_faults))


def _launch(cold: float, warm: float, version: str = "41") -> LaunchTruth:
    return LaunchTruth(
        MetricTruth(cold, cold * 0.05, skew=0.6, first_run=cold * 0.3, step=0.001),
        MetricTruth(warm, warm * 0.04, skew=0.4, step=0.001),
        version,
    )


MARGINS = {
    "boot.total": Margin(amount=0.5),
    "memory.used": Margin(amount=15 * MIB),
    "launch.settled": Margin(amount=0.1),
}

BANDS = Bands(("light", "middle", "heavy"), (400 * MIB, 600 * MIB))
"""What the seed bank calls a light terminal, by its idle memory."""

_BOOT, _IDLE, _SPACE = "boot.total|host-marker||", "memory.used|probe||", "disk.used|statvfs||"
REFERENCE = "Varrow 12 Tarnwick"
WEIGHTS: Mapping[str, tuple[str, Mapping[str, float]]] = {
    "old laptop": ("two cores, four gigabytes", {_IDLE: 3.0, _BOOT: 2.0, _SPACE: 1.0}),
    "office": ("switched on in the morning", {_BOOT: 1.0, _IDLE: 1.0}),
    "field terminal": ("a small card, switched on often", {_BOOT: 3.0, _SPACE: 2.0, _IDLE: 2.0}),
}
"""Sets of weights: name, use, and the weight of each part."""

HERBARIUM = StudyTruth(
    title="Which edition boots the Herbarium laptop soonest?",
    machine="Herbarium laptop",
    seed=4128,
    margins=MARGINS,
    lanes={
        "Varrow 12 Tarnwick": _lane(
            "Varrow 12 Tarnwick", _boot(2.1, 3.4, 11.5, 0.35), _idle(498, 88, 0, 4.9, 141)
        ),
        "Varrow 12 Thistlow": _lane(
            "Varrow 12 Thistlow", _boot(2.1, 3.4, 14.0, 0.45), _idle(612, 96, 0, 6.8, 187)
        ),
        "Quillfern 9-rc Tarnwick": _lane(
            "Quillfern 9-rc Tarnwick",
            _boot(2.1, 3.9, 14.3, 0.4, second_mode=2.8, second_share=0.35),
            _idle(312, 70, 0, 5.4, 118),
            failure_share=0.12,
        ),
        "Marlstone 26.1 Thistlow": _lane(
            "Marlstone 26.1 Thistlow", _boot(2.1, 4.3, 14.4, 0.5), _idle(453, 91, 0, 6.2, 164)
        ),
        "Marlstone 26.1 Mossgate": _lane(
            "Marlstone 26.1 Mossgate", _boot(2.1, 4.3, 17.5, 0.6), _idle(733, 120, 0, 8.1, 203)
        ),
    },
    launches={
        "Varrow 12 Tarnwick": _launch(2.9, 0.92),
        "Varrow 12 Thistlow": _launch(3.1, 0.94),
        "Quillfern 9-rc Tarnwick": _launch(2.4, 0.71, "42"),
        "Marlstone 26.1 Thistlow": _launch(3.0, 0.93),
        "Marlstone 26.1 Mossgate": _launch(3.6, 0.95),
    },
    set_aside=("Varrow 12 Thistlow", 7, "boot.total", "the lid was closed during this boot"),
)

FIELD_KIT = StudyTruth(
    title="Which system fits the Field-kit board?",
    machine="Field-kit board",
    seed=902,
    margins=MARGINS,
    lanes={
        "Osterfell Base": _lane(
            "Osterfell Base", _boot(1.2, 5.1, 6.2, 0.5), _idle(86, 30, 0, 0.9, 48)
        ),
        "Varrow 12 Tarnwick": _lane(
            "Varrow 12 Tarnwick", _boot(1.2, 5.9, 31.5, 1.4), _idle(471, 80, 0, 4.9, 139)
        ),
        "Quillfern 8 Tarnwick": _lane(
            "Quillfern 8 Tarnwick", _boot(1.2, 5.8, 31.7, 1.5), _idle(338, 66, 0, 5.1, 121)
        ),
        "Marlstone 26.1 Mossgate": _lane(
            "Marlstone 26.1 Mossgate",
            _boot(1.2, 6.6, 58.0, 2.2),
            _idle(702, 110, 64, 8.0, 199),
            failure_share=0.08,
            failure_reason="hung: no login within 180 s",
        ),
    },
)

GERMINATION = StudyTruth(
    title="What does the candidate change in the germination room?",
    machine="Germination-room mini PC",
    seed=77,
    margins=MARGINS,
    lanes={
        "Quillfern 8 Tarnwick": _lane(
            "Quillfern 8 Tarnwick", _boot(4.6, 1.9, 6.0, 0.22), _idle(344, 72, 0, 5.2, 122)
        ),
        "Quillfern 9-rc Tarnwick": _lane(
            "Quillfern 9-rc Tarnwick", _boot(4.6, 1.9, 6.05, 0.2), _idle(318, 70, 0, 5.4, 119)
        ),
        "Varrow 12 Tarnwick": _lane(
            "Varrow 12 Tarnwick", _boot(4.6, 1.7, 5.1, 0.18), _idle(503, 90, 0, 4.9, 142)
        ),
        "Varrow 12 Thistlow": _lane(
            "Varrow 12 Thistlow", _boot(4.6, 1.7, 6.9, 0.25), _idle(618, 97, 0, 6.8, 188)
        ),
        "Marlstone 26.1 Thistlow": _lane(
            "Marlstone 26.1 Thistlow", _boot(4.6, 2.0, 7.3, 0.24), _idle(460, 92, 0, 6.2, 165)
        ),
        "Marlstone 26.1 Mossgate": _lane(
            "Marlstone 26.1 Mossgate",
            _boot(4.6, 2.0, 8.8, 0.3),
            _idle(741, 121, 0, 8.1, 204),
            updates_pending="18",
        ),
    },
    launches={
        "Quillfern 8 Tarnwick": _launch(1.5, 0.52),
        "Quillfern 9-rc Tarnwick": _launch(1.25, 0.51),
        "Varrow 12 Tarnwick": _launch(1.6, 0.53),
        "Varrow 12 Thistlow": _launch(1.7, 0.55),
        "Marlstone 26.1 Thistlow": _launch(1.65, 0.54),
        "Marlstone 26.1 Mossgate": _launch(1.9, 0.56),
    },
)

ONE_GIG = StudyTruth(
    title="Can any desktop live on one gigabyte?",
    machine="One-gig guest",
    seed=1025,
    margins=MARGINS,
    done_runs=37,
    lanes={
        "Varrow 12 Tarnwick": _lane(
            "Varrow 12 Tarnwick", _boot(0.4, 2.2, 14.8, 0.5), _idle(428, 60, 22, 4.9, 140)
        ),
        "Quillfern 9-rc Tarnwick": _lane(
            "Quillfern 9-rc Tarnwick",
            _boot(0.4, 2.4, 12.9, 0.5, second_mode=2.2, second_share=0.3),
            _idle(301, 52, 0, 5.4, 117),
            failure_share=0.1,
        ),
        "Marlstone 26.1 Thistlow": _lane(
            "Marlstone 26.1 Thistlow",
            _boot(0.4, 2.6, 17.1, 0.6),
            _idle(441, 62, 41, 6.2, 163),
            faults=Faults(stall_share=0.1, stall_s=19.0),
        ),
        "Marlstone 26.1 Mossgate": _lane(
            "Marlstone 26.1 Mossgate",
            _boot(0.4, 2.6, 24.5, 1.1, drift=0.22),
            _idle(588, 70, 210, 8.1, 201),
        ),
    },
)

BOOT_UNITS = (
    UnitTruth("mounts.service", 0.0, 0.08),
    UnitTruth("input-devices.service", 0.02, 0.16),
    UnitTruth("clock-sync.service", 0.12, 0.2),
    UnitTruth("network-up.service", 0.14, 0.46),
    UnitTruth("sound.service", 0.2, 0.27),
    UnitTruth("printer-watch.service", 0.22, 0.31),
    UnitTruth("coppicer-index.service", 0.3, 0.58),
    UnitTruth("field-sync.service", 0.46, 0.6),
    UnitTruth("power-watch.service", 0.2, 0.24),
    UnitTruth("display-manager.service", 0.6, 0.7),
    UnitTruth("tarnwick-session.service", 0.7, 0.97),
    UnitTruth("tarnwick-panel.service", 0.8, 1.0),
)
SLOW_CARD_UNITS = tuple(
    UnitTruth(unit.name, 0.18, 0.59) if unit.name == "coppicer-index.service" else unit
    for unit in BOOT_UNITS
)

_EVERYWHERE = {
    "Germination-room mini PC": {
        "Varrow 12 Tarnwick": ((4.6, 1.7, 5.1, 0.18), (503, 90, 0, 4.9, 142)),
        "Quillfern 8 Tarnwick": ((4.6, 1.9, 6.7, 0.22), (344, 72, 0, 5.2, 122)),
        "Quillfern 9-rc Tarnwick": ((4.6, 1.9, 5.6, 0.2), (318, 70, 0, 5.4, 119)),
    },
    "Herbarium laptop": {
        "Varrow 12 Tarnwick": ((2.1, 3.4, 11.5, 0.3), (498, 88, 0, 4.9, 141)),
        "Quillfern 8 Tarnwick": ((2.1, 3.9, 16.6, 0.4), (340, 71, 0, 5.2, 121)),
        "Quillfern 9-rc Tarnwick": ((2.1, 3.9, 14.3, 0.4), (312, 70, 0, 5.4, 118)),
    },
    "Field-kit board": {
        "Varrow 12 Tarnwick": ((1.2, 5.9, 31.5, 0.9), (471, 80, 18, 4.9, 139)),
        "Quillfern 8 Tarnwick": ((1.2, 5.8, 27.0, 0.9), (338, 66, 0, 5.1, 121)),
        "Quillfern 9-rc Tarnwick": ((1.2, 5.8, 34.0, 1.0), (310, 66, 0, 5.4, 118)),
    },
    "One-gig guest": {
        "Varrow 12 Tarnwick": ((0.4, 2.2, 14.8, 0.4), (428, 60, 22, 4.9, 140)),
        "Quillfern 8 Tarnwick": ((0.4, 2.4, 15.4, 0.4), (322, 55, 0, 5.1, 120)),
        "Quillfern 9-rc Tarnwick": ((0.4, 2.4, 12.9, 0.4), (301, 52, 0, 5.4, 117)),
    },
}


def _with_menu(boot: Mapping[str, MetricTruth], machine: str) -> Mapping[str, MetricTruth]:
    """The laptop waits at its menu, alike for all."""
    if machine != "Herbarium laptop":
        return boot
    return {**boot, "boot.menu": MetricTruth(2.0, 0.01, step=0.001)}


EVERYWHERE = StudyTruth(
    title="Does the candidate boot sooner on every machine?",
    machine="",
    seed=311,
    blocks=8,
    margins=MARGINS,
    lanes={
        f"{system} on {machine}": _lane(
            system,
            _with_menu(_boot(*boot, first_run=0.0), machine),
            _idle(*idle),
            waits="menu" if machine == "Herbarium laptop" else "none",
        )
        for machine, systems in _EVERYWHERE.items()
        for system, (boot, idle) in systems.items()
    },
    units={
        machine: SLOW_CARD_UNITS if machine == "Field-kit board" else BOOT_UNITS
        for machine in _EVERYWHERE
    },
)


def _stages(
    system: str, userspace: float, used_mib: float, disk_gib: float, processes: int, kernels: str
) -> dict[str, LaneTruth]:
    """A system from its stick, freshly installed, and brought up to date."""
    before, after = kernels.split()
    live = _lane(
        system,
        _boot(2.1, 3.6, userspace + 9.5, 0.8, first_run=0.0),
        _idle(used_mib + 170, 140, 0, disk_gib, processes + 6),
        medium="live",
        updates_pending="42",
        kernel=before,
    )
    fresh = _lane(
        system,
        _boot(2.1, 3.6, userspace, 0.4, first_run=0.0),
        _idle(used_mib, 92, 0, disk_gib, processes),
        updates_pending="42",
        kernel=before,
    )
    updated = _lane(
        system,
        _boot(2.1, 3.7, userspace + 0.9, 0.4, first_run=0.0),
        _idle(used_mib + 24, 95, 0, disk_gib + 1.3, processes + 2),
        kernel=after,
    )
    return {f"{system}, live": live, f"{system}, fresh": fresh, f"{system}, updated": updated}


STAGES = StudyTruth(
    title="What do installing and updating change?",
    machine="Herbarium laptop",
    seed=58,
    blocks=10,
    margins=MARGINS,
    lanes={
        **_stages("Varrow 12 Thistlow", 14.0, 612, 6.2, 187, "6.12 6.12.4"),
        **_stages("Marlstone 26.1 Mossgate", 17.5, 733, 7.4, 203, "6.14 6.14.2"),
    },
    overrides={"medium": "from the stick or from the disk is the question"},
)


def _least(system: str, memory_mib: int) -> LaneTruth:
    """A system that gets ready with so much memory and no less, of the sizes that are sold."""
    found = {"least.memory": MetricTruth(memory_mib * MIB, 0.0)}
    return _lane(system, {}, found, memory_steps="512, 768, 1024, 2048 MiB", boots_each="3")


def _again(userspace: float, system: str) -> LaneTruth:
    """An install of its own on the mini PC, which boots a little unlike the other."""
    boot = _boot(4.6, 1.8, userspace, 0.2, first_run=0.0)
    return _lane(system, boot, _idle(430, 80, 0, 5.0, 130))


INSTALLS = StudyTruth(
    title="Is the second install of each as quick as the first?",
    machine="Germination-room mini PC",
    seed=91,
    blocks=36,
    ended_after=12,
    margins={"boot.total": Margin(amount=0.5)},
    lanes={
        "Varrow 12 Tarnwick, first": _again(5.0, "Varrow 12 Tarnwick"),
        "Varrow 12 Tarnwick, second": _again(5.12, "Varrow 12 Tarnwick"),
        "Quillfern 8 Tarnwick, first": _again(6.1, "Quillfern 8 Tarnwick"),
        "Quillfern 8 Tarnwick, second": _again(5.94, "Quillfern 8 Tarnwick"),
    },
)
"""Verdicts are read after every block, and it ended once all that it asks was decided."""

LADDER = StudyTruth(
    title="What is the least memory that each of them gets ready with?",
    machine="Guest of any memory",
    seed=64,
    blocks=2,
    procedures=(),
    lanes={
        "Osterfell Base": _least("Osterfell Base", 512),
        "Quillfern 9-rc Tarnwick": _least("Quillfern 9-rc Tarnwick", 768),
        "Varrow 12 Tarnwick": _least("Varrow 12 Tarnwick", 1024),
        "Marlstone 26.1 Mossgate": _least("Marlstone 26.1 Mossgate", 2048),
    },
)
"""Each on a ladder of memory sizes; what the makers of Mossgate's edition claim does not hold."""


EARLIER_TRUTH = {
    "Varrow 10 Tarnwick": (12.9, 523, 4.4, 133),
    "Varrow 10 Thistlow": (15.6, 641, 6.1, 176),
    "Varrow 11 Tarnwick": (12.1, 507, 4.6, 137),
    "Varrow 11 Thistlow": (14.7, 624, 6.5, 181),
    "Varrow 12 Tarnwick": (11.5, 498, 4.9, 141),
    "Quillfern 6 Tarnwick": (18.2, 371, 4.6, 112),
    "Quillfern 7 Tarnwick": (17.3, 355, 4.9, 117),
    "Quillfern 8 Tarnwick": (16.6, 340, 5.2, 121),
    "Marlstone 24.2 Thistlow": (13.6, 437, 5.8, 158),
    "Marlstone 25.1 Mossgate": (16.9, 702, 7.7, 197),
    "Sallowby 3 Tarnwick": (15.2, 361, 5.0, 124),
    "Ferncastle 7 Mossgate": (18.9, 655, 7.9, 195),
    "Hollowmere 1 Mossgate": (21.0, 690, 7.0, 188),
    "Hollowmere 2 Mossgate": (19.5, 655, 7.4, 191),
}
"""On the laptop: userspace, s; memory in use, MiB; disk in use, GiB; processes."""

_EARLIER_MACHINES = {
    "Herbarium laptop": (2.1, 3.6, 1.0, 1.0),
    "Germination-room mini PC": (4.6, 1.9, 0.43, 1.01),
    "Seed-vault till": (3.0, 3.1, 0.8, 0.99),
}
"""Firmware and kernel, s; userspace and memory against the laptop's."""


def _earlier(
    title: str, machine: str, began: tuple[int, int], seed: int, **differing: float
) -> StudyTruth:
    """A study of an earlier year. `differing` is by what each system's memory was off its truth,
    per cent; its boot is off by as much the other way."""
    firmware, kernel, pace, share = _EARLIER_MACHINES[machine]
    lanes = {}
    for key, off in differing.items():
        name = next(one for one in SYSTEMS if one.replace(" ", "_").replace(".", "_") == key)
        userspace, used, disk, processes = EARLIER_TRUTH[name]
        lanes[name] = _lane(
            name,
            _boot(firmware, kernel, userspace * pace * (1 - off / 100), 0.3, first_run=0.0),
            _idle(used * share * (1 + off / 100), 80, 0, disk, processes),
        )
    return StudyTruth(
        title,
        machine,
        lanes,
        seed,
        blocks=8,
        margins=MARGINS,
        began=datetime(*began, 6, 8, tzinfo=UTC),
    )


EARLIER_STUDIES = (
    _earlier(
        "Which system starts the first terminals?",
        "Herbarium laptop",
        (2023, 11),
        601,
        Varrow_10_Tarnwick=0.6,
        Varrow_10_Thistlow=-0.4,
        Quillfern_6_Tarnwick=0.3,
    ),
    _earlier(
        "Is the new Varrow worth the update?",
        "Herbarium laptop",
        (2024, 5),
        602,
        Varrow_11_Tarnwick=-0.7,
        Varrow_10_Tarnwick=0.2,
        Marlstone_24_2_Thistlow=0.5,
    ),
    _earlier(
        "What do last year’s releases need in the germination room?",
        "Germination-room mini PC",
        (2024, 10),
        603,
        Varrow_11_Tarnwick=0.4,
        Varrow_11_Thistlow=0.8,
        Quillfern_7_Tarnwick=-0.5,
        Quillfern_6_Tarnwick=-0.6,
    ),
    _earlier(
        "Does anything beat Varrow on the laptop?",
        "Herbarium laptop",
        (2025, 4),
        604,
        Varrow_11_Tarnwick=-0.2,
        Quillfern_7_Tarnwick=0.9,
        Marlstone_25_1_Mossgate=-0.6,
    ),
    _earlier(
        "Which Tarnwick is the lightest?",
        "Germination-room mini PC",
        (2025, 11),
        605,
        Quillfern_8_Tarnwick=0.3,
        Quillfern_7_Tarnwick=-0.3,
        Varrow_11_Tarnwick=0.5,
        Sallowby_3_Tarnwick=-0.8,
    ),
    _earlier(
        "What became lighter since the spring?",
        "Herbarium laptop",
        (2026, 5),
        606,
        Varrow_12_Tarnwick=-0.4,
        Varrow_11_Tarnwick=0.3,
        Quillfern_8_Tarnwick=-0.5,
        Ferncastle_7_Mossgate=0.6,
    ),
    _earlier(
        "Does the till gain by its new system?",
        "Seed-vault till",
        (2026, 6),
        607,
        Hollowmere_1_Mossgate=0.4,
        Hollowmere_2_Mossgate=-0.3,
    ),
)
"""Three years of studies that hang together through systems they share, but for the till's."""


DRIFT_MONTHS = 9
DRIFT_BLOCKS = 4

DRIFT = StudyTruth(
    title="Does the Herbarium laptop stay what it was?",
    machine="Herbarium laptop",
    seed=608,
    blocks=DRIFT_MONTHS * DRIFT_BLOCKS,
    margins=MARGINS,
    began=datetime(2026, 1, 12, 8, tzinfo=UTC),
    lanes={
        "Varrow 11 Tarnwick": _lane(
            "Varrow 11 Tarnwick",
            _boot(2.1, 3.6, 12.1, 0.12, first_run=0.0),
            _idle(507, 80, 0, 4.6, 137),
        ),
    },
    months=True,
)
"""The reference install of the laptop, booted four times a month."""


@dataclass(frozen=True)
class DraftTruth:
    """A study that is still being planned."""

    title: str
    machine: str
    systems: Sequence[str]


DRAFT = DraftTruth(
    title="Is the candidate ready for the one-gig terminals?",
    machine="One-gig guest",
    systems=("Varrow 12 Tarnwick", "Quillfern 9-rc Tarnwick"),
)

REPORTED = "Which edition boots the Herbarium laptop soonest?"
"""The study whose report is out."""

LEAD = """The laptops in the herbarium are switched on **twenty times a day**. What counts there is
how soon somebody can look up a sheet, and what is left of 4 GiB then.

- All contenders were installed anew on the same laptop, with all updates.
- Each was started as often as the others, in blocks whose order was drawn by lot."""
PUBLISHED = datetime(2026, 10, 12, 16, 0, tzinfo=UTC)

STUDIES: Sequence[StudyTruth] = (
    *EARLIER_STUDIES,
    DRIFT,
    STAGES,
    INSTALLS,
    EVERYWHERE,
    FIELD_KIT,
    GERMINATION,
    ONE_GIG,
    HERBARIUM,
)


def simulated_truths() -> dict[str, LaneTruth]:
    """Truth by the name that a simulated install's recipe carries."""
    return {
        f"{study.machine}/{system}": truth
        for study in STUDIES
        for system, truth in study.lanes.items()
        if study.done_runs is not None
    }
