"""What is stated of the sample world's systems and machines, and what their makers claim."""

from collections.abc import Mapping
from datetime import date

from haremile.core.records.library import Noun, Source
from haremile.usecases.ports import Things

PAGE = Source("the makers’ page", date(2026, 9, 14))
NOTES = Source("release notes", date(2026, 9, 14))
LABEL = Source("the label on the machine", date(2026, 9, 2))

Stated = Mapping[str, tuple[str, Source]]


def _released(day: str, **more: str) -> Stated:
    """What is stated of a system that was measured in an earlier year."""
    stated = {key: (value, NOTES) for key, value in more.items()}
    return {"channel": ("stable", PAGE), "released": (day, PAGE), **stated}


SYSTEMS: Mapping[str, Stated] = {
    "Varrow 12 Thistlow": {
        "channel": ("stable", PAGE),
        "base": ("Osterfell", NOTES),
        "desktop": ("Thistlow 7.2", NOTES),
        "window_system": ("Wayland", NOTES),
        "kernel": ("6.12", NOTES),
        "released": ("2026-04-21", PAGE),
        "supported_until": ("2029-04-30", PAGE),
        "image_size": ("3.1 GB", PAGE),
    },
    "Varrow 12 Tarnwick": {
        "channel": ("stable", PAGE),
        "base": ("Osterfell", NOTES),
        "desktop": ("Tarnwick 4.20", NOTES),
        "window_system": ("X11", NOTES),
        "kernel": ("6.12", NOTES),
        "released": ("2026-04-21", PAGE),
        "supported_until": ("2029-04-30", PAGE),
        "image_size": ("2.4 GB", PAGE),
    },
    "Marlstone 26.1 Thistlow": {
        "channel": ("rolling", PAGE),
        "desktop": ("Thistlow 7.3", NOTES),
        "kernel": ("6.13", NOTES),
        "image_size": ("2.8 GB", PAGE),
    },
    "Marlstone 26.1 Mossgate": {
        "channel": ("rolling", PAGE),
        "desktop": ("Mossgate 2.1", NOTES),
        "kernel": ("6.14", NOTES),
        "image_size": ("2.2 GB", PAGE),
    },
    "Quillfern 8 Tarnwick": {
        "channel": ("stable", PAGE),
        "desktop": ("Tarnwick 4.18", NOTES),
        "window_system": ("X11", NOTES),
        "released": ("2025-10-08", PAGE),
        "supported_until": ("2027-12-31", PAGE),
        "image_size": ("1.9 GB", PAGE),
    },
    "Quillfern 9-rc Tarnwick": {
        "channel": ("candidate", PAGE),
        "desktop": ("Tarnwick 4.20", NOTES),
        "window_system": ("X11", NOTES),
        "image_size": ("2.0 GB", PAGE),
    },
    "Osterfell Base": {
        "channel": ("stable", PAGE),
        "desktop": ("none", PAGE),
        "image_size": ("640 MB", PAGE),
    },
    "Varrow 10 Tarnwick": _released("2023-10-17"),
    "Varrow 10 Thistlow": _released("2023-10-17"),
    "Varrow 11 Tarnwick": _released("2024-04-23"),
    "Varrow 11 Thistlow": _released("2024-04-23"),
    "Quillfern 6 Tarnwick": _released("2023-08-30"),
    "Quillfern 7 Tarnwick": _released("2024-09-11"),
    "Marlstone 24.2 Thistlow": _released("2024-03-01"),
    "Marlstone 25.1 Mossgate": _released("2025-02-14"),
    "Sallowby 3 Tarnwick": _released("2025-09-02", base="Osterfell"),
    "Ferncastle 7 Mossgate": _released("2026-03-19", base="Marlstone"),
    "Hollowmere 1 Mossgate": _released("2024-11-05"),
    "Hollowmere 2 Mossgate": _released("2026-05-12"),
}
MACHINES: Mapping[str, Stated] = {
    "Germination-room mini PC": {"firmware": ("UEFI", LABEL), "age": ("2023", LABEL)},
    "Herbarium laptop": {
        "firmware": ("UEFI", LABEL),
        "screen": ("1366 x 768", LABEL),
        "age": ("2015", LABEL),
    },
    "Field-kit board": {"age": ("2021", LABEL)},
    "Seed-vault till": {"age": ("2018", LABEL)},
}
CLAIMS: Mapping[str, tuple[tuple[str, float, str, bool], ...]] = {
    "Varrow 12 Tarnwick": (("boots_in", 25, "s", False), ("idle_memory", 700, "MiB", False)),
    "Marlstone 26.1 Mossgate": (("boots_in", 20, "s", False), ("least_memory", 1, "GiB", False)),
    "Osterfell Base": (("least_memory", 512, "MiB", False),),
    "Quillfern 8 Tarnwick": (("boots_in", 18, "s", False), ("idle_memory", 520, "MiB", True)),
    "Quillfern 9-rc Tarnwick": (("boots_in", 15, "s", False), ("least_memory", 768, "MiB", False)),
}
"""Key, amount, unit, and whether it is the tester's own guess."""


def load_facts(things: Things) -> None:
    """State what is known of whatever nothing was ever stated of."""
    for noun, stated in ((Noun.SYSTEM, SYSTEMS), (Noun.MACHINE, MACHINES)):
        for thing in things.all(noun):
            if thing.facts:
                continue
            for key, (value, source) in stated.get(thing.name, {}).items():
                things.state(noun, thing.id, key, value, source)
            for key, amount, unit, is_own in CLAIMS.get(thing.name, ()):
                things.claim(thing.id, key, amount, unit, is_own, PAGE)
