"""Recorded texts of machines: what each says is known, and no parser crashes or guesses.

A folder of `tests/data/` holds one source's texts; its `expected.json` tells what each means, or
`{"unreadable": …}` with a part of what is then said. The identity in the texts is the sample
world's.
"""

import json
from itertools import islice

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from haremile_probe.interpret.launch import parse_launches
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.boot_records import (
    parse_efi_times,
    parse_firmware_table,
    parse_kernel_log,
    parse_last_shutdown,
)
from haremile_probe.parsers.cpu import parse_cpu_time, parse_cpuinfo
from haremile_probe.parsers.desktop_entry import parse_desktop_entry
from haremile_probe.parsers.file_system import parse_file_system
from haremile_probe.parsers.key_values import parse_os_release
from haremile_probe.parsers.mounts import parse_mountinfo, parse_swaps, root_mount
from haremile_probe.parsers.packages import (
    parse_apk_installed,
    parse_apt_simulation,
    parse_dpkg_status,
    parse_package_lines,
    parse_pacman_local,
    parse_rpm_header,
    parse_update_lines,
)
from haremile_probe.parsers.path_values import parse_path_values
from haremile_probe.parsers.pressure import parse_pressure
from haremile_probe.parsers.service_manager import parse_boot_times, parse_units
from haremile_probe.parsers.sessions import parse_session
from haremile_probe.parsers.walk import parse_walk
from helpers import DATA

SOURCES = {
    "apk-installed": parse_apk_installed,
    "apt-upgrade": parse_apt_simulation,
    "cpuinfo": parse_cpuinfo,
    "desktop-entry": parse_desktop_entry,
    "dpkg-status": parse_dpkg_status,
    "efi-times": parse_efi_times,
    "file-system": parse_file_system,
    "firmware-table": lambda text: parse_firmware_table(parse_path_values(text)),
    "journal": parse_last_shutdown,
    "kernel-log": parse_kernel_log,
    "launches": parse_launches,
    "mountinfo": lambda text: root_mount(parse_mountinfo(text)),
    "os-release": parse_os_release,
    "package-lines": parse_package_lines,
    "pacman-local": parse_pacman_local,
    "path-values": parse_path_values,
    "pressure": parse_pressure,
    "rpm-header": parse_rpm_header,
    "service-manager": parse_boot_times,
    "session": parse_session,
    "stat": parse_cpu_time,
    "swaps": parse_swaps,
    "units": parse_units,
    "update-lines": parse_update_lines,
    "walk": parse_walk,
}


def texts_of(source):
    """Name and text of every recording of a source."""
    for path in sorted((DATA / source).iterdir()):
        if path.name != "expected.json":
            yield path.name, path.read_bytes() if path.suffix == ".bin" else path.read_text()


def said(source, text):
    """What the parser says, in the form that `expected.json` holds."""
    try:
        found = SOURCES[source](text)
    except UnreadableError as error:
        return {"unreadable": str(error)}
    return json.loads(json.dumps(found))


RECORDED = [(source, name) for source in SOURCES for name, _ in texts_of(source)]


@pytest.mark.parametrize("source", SOURCES)
def test_every_source_is_recorded_in_three_states_at_least(source):
    assert len(list(texts_of(source))) >= 3


@pytest.mark.parametrize(("source", "name"), RECORDED, ids=[f"{s}-{n}" for s, n in RECORDED])
def test_what_a_recorded_text_says_is_known(source, name):
    expected = json.loads((DATA / source / "expected.json").read_text())[name]
    found = said(source, dict(texts_of(source))[name])
    if isinstance(expected, dict) and "unreadable" in expected:
        assert expected["unreadable"] in found["unreadable"]
    else:
        assert found == expected


def changed(text, cut, place, by):
    """A text broken off, or with something in it replaced."""
    text = text[: int(len(text) * cut)]
    where = int(len(text) * place)
    return text[:where] + by + text[where + len(by) :]


@pytest.mark.parametrize("source", SOURCES)
@settings(max_examples=60)
@given(
    cut=st.floats(0.0, 1.0),
    place=st.floats(0.0, 1.0),
    by=st.sampled_from(["\x00", "-1", "9" * 30, "<b>", "\n\n", "'", "=", " ", "é", "nan", "1e9"]),
)
def test_no_change_to_a_text_makes_a_parser_crash(source, cut, place, by):
    for _, text in islice(texts_of(source), 4):
        said(source, changed(text, cut, place, by.encode() if isinstance(text, bytes) else by))


@given(st.text(max_size=300))
def test_any_text_is_read_or_refused(text):
    for source in SOURCES:
        said(source, text.encode() if source == "rpm-header" else text)


def test_a_huge_package_database_is_read_whole():
    stanza = "Package: seed-{0}\nStatus: install ok installed\nInstalled-Size: 4\nVersion: 1\n"
    text = "\n".join(stanza.format(number) for number in range(20_000))
    packages = parse_dpkg_status(text)
    assert len(packages) == 20_000
    assert sum(package.size_bytes for package in packages) == 20_000 * 4096
