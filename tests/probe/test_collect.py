"""Reading a machine: what cannot be read is named in one of four ways."""

import os
import sqlite3

import pytest

from haremile_probe.collect.about import (
    VALUES,
    read_about,
    read_activity,
    read_applications,
    read_command_lines,
)
from haremile_probe.collect.footprint import Walker, read_file_system, read_walk
from haremile_probe.collect.idle import IdlePlan, read_idle, sum_of_processes
from haremile_probe.collect.packages import read_packages
from haremile_probe.collect.sources import Sources, fault_of
from haremile_probe.interpret import account_of
from haremile_probe.parsers.mounts import Mount
from haremile_probe.parsers.settling import SettleRule
from haremile_probe.parsers.walk import parse_walk
from helpers import DATA


def quiet(_text):
    pass


class FakeMachine:
    """A clock that runs while one sleeps, and memory in use that follows a script of levels."""

    def __init__(self, root, levels, begun=5.0):
        self.now, self.levels, self.root = begun, list(levels), root
        (root / "proc").mkdir()
        (root / "proc" / "stat").write_text("cpu  1 0 1 8 0\n")
        self._write()

    def _write(self):
        used = self.levels.pop(0) if len(self.levels) > 1 else self.levels[0]
        names = ("MemFree", "Buffers", "Cached", "SReclaimable", "Shmem", "SwapTotal", "SwapFree")
        rest = "".join(f"{name}: 0 kB\n" for name in names)
        text = f"MemTotal: 1000000 kB\nMemAvailable: {1000000 - used} kB\n{rest}"
        (self.root / "proc" / "meminfo").write_text(text)

    def sleep(self, seconds):
        self.now += seconds
        self._write()

    def watch(self, rule, instants=()):
        sources = Sources(str(self.root), clock=lambda: self.now)
        read_idle(sources, IdlePlan(rule, instants), quiet, self.sleep)
        return account_of("idle", sources.records, sources.faults)


def used(account):
    return {r.step: r.value / 1024 for r in account.readings if r.metric == "memory.used"}


def test_idle_is_read_once_memory_keeps_still(tmp_path):
    machine = FakeMachine(tmp_path, [900, 700, 500, 400])
    found = machine.watch(SettleRule(window_s=10.0, timeout_s=60.0))
    assert used(found) == {0: 400}
    assert found.facts["settled_at_s"] == pytest.approx(18.0)


def test_instants_are_waited_for_also_after_settling(tmp_path):
    machine = FakeMachine(tmp_path, [400], begun=50.0)
    found = machine.watch(SettleRule(window_s=4.0, timeout_s=30.0), instants=[30.0, 60.0, 180.0])
    assert used(found) == {0: 400, 60: 400, 180: 400}
    assert machine.now == pytest.approx(180.0)


def test_watching_ends_at_the_limit_and_says_so(tmp_path):
    machine = FakeMachine(tmp_path, range(100, 90_000, 1000))
    found = machine.watch(SettleRule(window_s=10.0, timeout_s=20.0))
    assert used(found) == {}
    assert [fault.kind for fault in found.faults if "settle" in fault.what] == ["timed-out"]
    assert machine.now < 30.0


def test_instants_after_the_limit_do_not_make_it_look_settled(tmp_path):
    machine = FakeMachine(tmp_path, [*range(100_000, 400_000, 10_000), 400_000])
    found = machine.watch(SettleRule(window_s=10.0, timeout_s=20.0), instants=[60.0, 180.0, 300.0])
    assert sorted(used(found)) == [60, 180, 300]  # and no settled reading, whose step is 0
    assert [fault.kind for fault in found.faults if "settle" in fault.what] == ["timed-out"]
    assert max(found.traces[0].times_s) < 30.0


def test_a_machine_without_meminfo_gives_a_fault_and_no_reading(tmp_path):
    (tmp_path / "proc").mkdir()
    sources = Sources(str(tmp_path), clock=lambda: 1.0)
    read_idle(sources, IdlePlan(), quiet, lambda _s: None)
    assert [(fault.kind, fault.what) for fault in sources.faults] == [
        ("absent", "meminfo: /proc/meminfo")
    ]


def test_files_are_the_first_that_is_there_and_faults_name_what_was_looked_for(tmp_path):
    (tmp_path / "etc").mkdir()
    (tmp_path / "etc" / "second").write_text("here")
    (tmp_path / "etc" / "folder").mkdir()
    sources = Sources(str(tmp_path))
    assert sources.file("name", "/etc/first", "/etc/second") == "here"
    assert sources.file("name", "/etc/first") is None
    assert sources.file("name", "/etc/folder") is None
    assert [fault.kind for fault in sources.faults] == ["absent", "unreadable"]
    assert "/etc/first" in sources.faults[0].what


@pytest.mark.parametrize(
    ("error", "kind"),
    [
        (PermissionError(13, "x"), "denied"),
        (FileNotFoundError(2, "x"), "absent"),
        (ProcessLookupError(3, "x"), "absent"),
        (OSError(5, "x"), "unreadable"),
    ],
)
def test_a_refused_reading_is_denied_absent_or_unreadable(error, kind):
    assert fault_of(error, "x").kind == kind


@pytest.mark.parametrize(
    ("command", "kind"),
    [
        (["no-such-program"], "absent"),
        (["sh", "-c", "echo no >&2; exit 3"], "unreadable"),
        (["sh", "-c", "echo Permission denied >&2; exit 1"], "denied"),
        (["sleep", "30"], "timed-out"),
    ],
)
def test_a_program_that_gives_nothing_is_a_fault_of_its_kind(command, kind):
    sources = Sources()
    assert sources.command("asked", command, timeout_s=0.2 if kind == "timed-out" else 10) is None
    assert [fault.kind for fault in sources.faults] == [kind]


def test_words_are_given_to_programs_as_they_are():
    sources = Sources()
    assert sources.command("asked", ["echo", "$(reboot); `id`"]) == "$(reboot); `id`\n"


def test_this_machine_tells_of_itself():
    sources = Sources()
    read_about(sources)
    read_activity(sources, pause_s=0.05)
    read_applications(sources, ["sh", "no-such-application"])
    account = account_of("about", sources.records, sources.faults)
    assert int(account.conditions["cores"]) == os.cpu_count()
    assert account.conditions["kernel"] == os.uname().release
    assert account.facts["architecture"] == os.uname().machine
    assert {"name": "no-such-application", "packaging": None} in account.facts["applications"]
    assert [
        fault
        for fault in account.faults
        if fault.kind == "unreadable" and not fault.what.startswith("application")
    ] == []


def test_what_is_listed_for_the_probe_is_listed_for_the_gatherer():
    script = (DATA.parents[1] / "src/haremile_probe/haremile-gather.sh").read_text()
    for pattern in VALUES:
        assert f"{pattern} " in script or f"{pattern}\n" in script, pattern


def test_the_sum_over_processes_holds_our_own():
    sums, own = sum_of_processes(Sources())
    told = dict(line.split() for line in sums.splitlines())
    mine = dict(line.split() for line in own.splitlines())
    assert int(told["read"]) >= 1
    assert int(told["pss"]) >= int(mine["pss"]) > 2**20


@pytest.fixture
def tree(tmp_path):
    """A folder of known size: five files, a hard link, a hole, names that are hard to handle."""
    (tmp_path / "usr" / "a folder\nof lines").mkdir(parents=True)
    (tmp_path / "var" / "cache").mkdir(parents=True)
    for number, name in enumerate(["usr/one", "usr/a folder\nof lines/two", "var/cache/three"]):
        (tmp_path / name).write_bytes(b"h" * 4096 * (number + 1))
    os.link(tmp_path / "usr/one", tmp_path / "var/again")
    with (tmp_path / "usr" / "hole").open("wb") as file:
        file.truncate(2**30)
    (tmp_path / "usr" / "link").symlink_to("/nowhere")
    os.sync()
    return tmp_path


def blocks(*paths):
    return sum(os.lstat(path).st_blocks * 512 for path in paths)


def test_a_known_tree_is_walked_exact_to_the_block(tree):
    walker = Walker(str(tree))
    walker.walk(quiet)
    every = {path for path in tree.rglob("*") if path != tree / "var/again"}
    assert walker.total == blocks(tree, *every)
    assert walker.entries == len(every) + 1
    assert walker.apart["caches"] == blocks(tree / "var/cache", tree / "var/cache/three")
    assert walker.top["usr"] + walker.top["var"] == blocks(*every)
    assert walker.unreadable == 0


def test_a_folder_that_goes_away_while_one_walks_is_no_unreadable_one(tree, monkeypatch):
    listed = os.scandir

    def scandir(path):
        if str(path).endswith("cache"):
            raise PermissionError(13, "denied", path)
        if "a folder" in str(path):
            raise FileNotFoundError(2, "gone", path)
        return listed(path)

    monkeypatch.setattr(os, "scandir", scandir)
    walker = Walker(str(tree))
    walker.walk(quiet)
    assert walker.unreadable == 1


def test_what_is_shown_a_second_time_is_counted_once_and_named(tree):
    base = Mount("8:2", "/", "ext4", "/dev/vda2", "/")
    again = Mount("8:2", str(tree / "var/cache"), "ext4", "/dev/vda2", str(tree / "usr"))
    walker = Walker(str(tree), [base, again])
    walker.walk(quiet)
    whole = Walker(str(tree))
    whole.walk(quiet)
    assert walker.total == whole.total - blocks(tree / "var/cache", tree / "var/cache/three")
    found = parse_walk(walker.text())
    assert found.left_out == {str(tree / "var/cache"): "shown a second time there"}


def test_a_folder_whose_name_is_no_text_is_walked_and_shown_escaped(tmp_path):
    odd = os.fsencode(tmp_path) + b"/\xff"
    os.mkdir(odd)
    with open(odd + b"/file", "wb") as file:
        file.write(b"h" * 8192)
    sources = Sources(str(tmp_path))
    read_walk(sources, quiet)
    (text,) = [record.text for record in sources.records if record.name == "walk"]
    text.encode()  # it can be written down
    assert parse_walk(text).top["\\xff"] == blocks(odd, odd + b"/file")


@pytest.mark.long
def test_the_walk_of_the_real_root_agrees_with_the_file_system():
    sources = Sources()
    read_file_system(sources)
    read_walk(sources, quiet)
    account = account_of("footprint", sources.records, sources.faults)
    found = {r.metric: r.value for r in account.readings}
    walked = account.facts["walk"]
    if walked["unreadable"]:
        assert "disk.walked" not in found  # as a normal user: said, not guessed
        assert walked["total_bytes"] < found["disk.used"]
    else:
        assert found["disk.walked"] == pytest.approx(found["disk.used"], rel=0.02)


def test_packages_are_read_from_the_databases_without_their_managers(tmp_path):
    made = {
        "var/lib/dpkg/status": (DATA / "dpkg-status" / "varrow.txt").read_bytes(),
        "lib/apk/db/installed": (DATA / "apk-installed" / "osterfell.txt").read_bytes(),
        "var/lib/pacman/local/coppicer-3/desc": b"%NAME%\ncoppicer\n\n%VERSION%\n3\n",
    }
    for name, body in made.items():
        (tmp_path / name).parent.mkdir(parents=True)
        (tmp_path / name).write_bytes(body)
    (tmp_path / "var/lib/rpm").mkdir()
    with sqlite3.connect(tmp_path / "var/lib/rpm/rpmdb.sqlite") as database:
        database.execute("CREATE TABLE Packages (hnum INTEGER PRIMARY KEY, blob BLOB)")
        for name in ("inkwarren", "wayfarrow"):
            blob = (DATA / "rpm-header" / f"{name}.bin").read_bytes()
            database.execute("INSERT INTO Packages (blob) VALUES (?)", (blob,))
    sources = Sources(str(tmp_path))
    read_packages(sources)
    account = account_of("footprint", sources.records, sources.faults)
    assert account.facts["packages"] == {
        "dpkg-status": 5,
        "apk-installed": 2,
        "pacman-local": 1,
        "rpm-packages": 2,
    }
    assert account.faults == []


def test_what_waits_in_a_databases_log_is_installed_too(tmp_path):
    (tmp_path / "var/lib/rpm").mkdir(parents=True)
    path = tmp_path / "var/lib/rpm/rpmdb.sqlite"
    database = sqlite3.connect(path)
    database.execute("PRAGMA journal_mode=WAL")
    database.execute("PRAGMA wal_autocheckpoint=0")
    database.execute("CREATE TABLE Packages (hnum INTEGER PRIMARY KEY, blob BLOB)")
    for name in ("inkwarren", "wayfarrow", "coppicer-with-epoch"):
        blob = (DATA / "rpm-header" / f"{name}.bin").read_bytes()
        database.execute("INSERT INTO Packages (blob) VALUES (?)", (blob,))
    database.commit()
    before = path.read_bytes()
    sources = Sources(str(tmp_path))
    read_packages(sources)
    after = path.read_bytes()
    database.close()
    (record,) = sources.records
    assert len(record.text.splitlines()) == 3
    assert "coppicer 2:9.1-3 5000" in record.text
    assert after == before, "nothing was written back by looking"


@pytest.mark.parametrize(
    ("path", "says"),
    [
        ("var/lib/rpm/Packages.db", "ndb"),
        ("var/lib/rpm/Packages", "Berkeley"),
        ("var/db/xbps/pkgdb-0.38.plist", "xbps"),
        ("var/db/pkg/app-misc/coppicer-3", "portage"),
        ("var/lib/flatpak/app/org.example.Coppicer", "flatpak"),
        ("var/lib/snapd/snaps/coppicer_3.snap", "snap"),
    ],
)
def test_a_package_manager_that_is_not_read_is_named(tmp_path, path, says):
    (tmp_path / path).mkdir(parents=True)
    sources = Sources(str(tmp_path))
    read_packages(sources)
    (fault,) = sources.faults
    assert fault.kind == "unreadable"
    assert says in fault.what


def test_a_garbled_package_database_and_none_at_all_are_faults(tmp_path):
    sources = Sources(str(tmp_path))
    read_packages(sources)
    assert [fault.kind for fault in sources.faults] == ["absent"]
    (tmp_path / "var/lib/rpm").mkdir(parents=True)
    (tmp_path / "var/lib/rpm/rpmdb.sqlite").write_bytes(b"no database")
    sources = Sources(str(tmp_path))
    read_packages(sources)
    assert [fault.kind for fault in sources.faults] == ["unreadable"]


def test_arguments_of_programs_are_not_kept_but_a_recorder_is_told(tmp_path):
    for pid, line in (
        (7, "tool\0--password=seed\0"),
        (8, "grabber\0-f\0x11grab\0secret\0"),
        (9, ""),
    ):
        (tmp_path / "proc" / str(pid)).mkdir(parents=True)
        (tmp_path / "proc" / str(pid) / "cmdline").write_text(line)
    sources = Sources(str(tmp_path))
    read_command_lines(sources)
    assert sources.records[-1].text == "7 tool\n8 grabber x11grab\n"
    account = account_of("about", sources.records)
    assert account.conditions["recorder"] == "running"
    assert account.facts["recorders"] == ["grabber"]


def test_a_program_may_say_with_its_exit_code_that_there_is_nothing():
    sources = Sources()
    assert sources.command("asked", ["false"], good_codes=(0, 1)) == ""
    assert sources.faults == []


def test_what_a_session_starts_by_itself_is_counted_with_the_users_own_entries(
    tmp_path, monkeypatch
):
    system, own = tmp_path / "etc/xdg/autostart", tmp_path / "conf/autostart"
    for folder in (system, own):
        folder.mkdir(parents=True)
    (system / "chimes.desktop").write_text("[Desktop Entry]\nExec=chimes\n")
    (system / "barometer.desktop").write_text("[Desktop Entry]\nExec=barometer\n")
    (own / "barometer.desktop").write_text("[Desktop Entry]\nHidden=true\n")
    (own / "inkwarren.desktop").write_text("[Desktop Entry]\nOnlyShowIn=Thistlow;\n")
    monkeypatch.setenv("XDG_CONFIG_HOME", "/conf")
    monkeypatch.setenv("XDG_CURRENT_DESKTOP", "Thistlow")
    sources = Sources(str(tmp_path))
    read_about(sources)
    account = account_of("about", sources.records, sources.faults)
    assert account.facts["autostart"] == ["chimes", "inkwarren"]
    assert account.conditions["autostart"] == "2"
