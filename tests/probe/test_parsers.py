import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.desktop_entry import started_in
from haremile_probe.parsers.file_system import parse_file_system
from haremile_probe.parsers.meminfo import parse_meminfo
from haremile_probe.parsers.mounts import Mount, reach_of
from haremile_probe.parsers.process_stats import parse_process_stats
from helpers import DATA


@pytest.mark.parametrize("path", sorted((DATA / "meminfo").glob("*.txt")), ids=lambda p: p.stem)
def test_recorded_meminfo_is_read_in_bytes(path):
    text = path.read_text()
    figures = parse_meminfo(text)
    first = int(text.split()[1])
    assert figures["MemTotal"] == first * 1024
    assert figures["HugePages_Total"] == 0
    assert len(figures) == len(text.strip().splitlines())


def test_recorded_processes_tell_kernel_threads_apart():
    base = parse_process_stats((DATA / "processes" / "osterfell-base.txt").read_text())
    own = [process for process in base if not process.is_kernel]
    assert [process.name for process in own] == ["init", "syslogd"]
    assert len(base) > 30
    server = parse_process_stats((DATA / "processes" / "osterfell-server.txt").read_text())
    assert {"crond", "httpd"} <= {process.name for process in server if not process.is_kernel}


def test_a_process_name_may_hold_blanks_and_brackets():
    line = "7 (a) b (c)) S 1 7 7 0 -1 4194560 " + "0 " * 10 + "3 0 500"
    (found,) = parse_process_stats(line)
    assert (found.name, found.threads) == ("a) b (c)", 3)


def test_a_file_system_record_is_read():
    found = parse_file_system("block_size=4096 blocks=26745 free=26179\n")
    assert found.used_bytes == 4096 * (26745 - 26179)
    assert found.total_bytes == 4096 * 26745


@pytest.mark.parametrize(
    ("parse", "text"),
    [
        (parse_meminfo, "MemFree: 12 kB"),
        (parse_meminfo, "MemTotal: many kB"),
        (parse_meminfo, "MemTotal:        253"[:9]),
        (parse_process_stats, "12 init S 1"),
        (parse_process_stats, "12 (init) S 1 2"),
        (parse_file_system, "block_size=4096"),
        (parse_file_system, "block_size=4096 blocks=5 free=9"),
    ],
)
def test_what_is_cut_short_or_impossible_is_unreadable(parse, text):
    with pytest.raises(UnreadableError):
        parse(text)


@given(st.text(max_size=200))
def test_a_parser_never_crashes(text):
    for parse in (parse_meminfo, parse_process_stats, parse_file_system):
        try:
            parse(text)
        except UnreadableError as error:
            assert str(error)


def mounts(*lines):
    return [Mount(*line) for line in lines]


def test_a_subvolume_belongs_to_its_file_system_and_a_bind_mount_is_counted_once():
    reach = reach_of(
        mounts(
            ("0:30", "/", "btrfs", "/dev/vda2", "/@"),
            ("0:30", "/home", "btrfs", "/dev/vda2", "/@home"),
            ("0:30", "/srv/again", "btrfs", "/dev/vda2", "/@/var/lib"),
            ("0:30", "/mnt/home", "btrfs", "/dev/vda2", "/@home"),
            ("8:1", "/boot", "ext4", "/dev/vda1", "/"),
        ),
        "/",
    )
    assert reach.kind == "btrfs"
    assert set(reach.entered) == {"/home"}
    assert reach.left_out == {
        "/srv/again": "shown a second time there",
        "/mnt/home": "shown a second time there",
        "/boot": "ext4, another file system",
    }


def test_a_walk_of_a_folder_knows_what_shows_a_part_of_it_again():
    base = ("8:2", "/", "ext4", "/dev/vda2", "/")
    inside = reach_of(mounts(base, ("8:2", "/srv/x", "ext4", "/dev/vda2", "/srv/y")), "/srv")
    assert set(inside.left_out) == {"/srv/x"}
    other = reach_of(mounts(base, ("8:2", "/srv/x", "ext4", "/dev/vda2", "/opt")), "/srv")
    assert set(other.entered) == {"/srv/x"}, "it is nowhere else in what is walked"


@pytest.mark.parametrize(
    ("said", "is_started"),
    [
        ("", True),
        ("Hidden=true", False),
        ("OnlyShowIn=Thistlow;Other;", True),
        ("OnlyShowIn=Tarnwick;", False),
        ("NotShowIn=Thistlow;", False),
        ("NotShowIn=Tarnwick;", True),
    ],
)
def test_an_autostart_entry_is_started_where_it_says(said, is_started):
    found = started_in(f"[barometer.desktop]\n[chimes.desktop]\n{said}\n", "Thistlow:Moor")
    assert found == (["barometer", "chimes"] if is_started else ["barometer"])
