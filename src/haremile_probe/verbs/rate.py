"""``rate``: how fast processor, memory and storage do fixed work, by our own native program."""

import argparse

from haremile_probe.collect.about import read_about, read_activity
from haremile_probe.collect.rates import RatesPlan, read_rates, usual_folder
from haremile_probe.native import Native
from haremile_probe.runtime import BadInput, Run, positive
from haremile_probe.wire import Capture, Fault

EXAMPLES = """examples: haremile-probe rate
          haremile-probe rate --file 1024 --folder /srv --least 5
Each phase goes on for some seconds. The file has no name and is gone with the program."""

USUAL = RatesPlan()


def _mib(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 2**20:
        raise argparse.ArgumentTypeError("a size in MiB is wanted, not %s" % text)
    return int(text)


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``rate``."""
    verb.add_argument(
        "--least", type=positive, default=USUAL.least_s, metavar="S", help="each phase, at least"
    )
    verb.add_argument("--memory", type=_mib, default=USUAL.memory_mib, metavar="MIB")
    verb.add_argument("--file", type=_mib, default=USUAL.file_mib, metavar="MIB")
    verb.add_argument("--folder", help="on which file system; else the home folder's")
    verb.add_argument("--no-storage", action="store_true", help="work on no file")


def read(run: Run) -> Capture:
    """Run every phase, and make a capture of what was done in how many seconds."""
    asked = run.asked
    if asked.least > 600.0:
        raise BadInput("a phase takes at most 600 s, not %g" % asked.least)
    read_about(run.sources)
    read_activity(run.sources)
    folder = "" if asked.no_storage else asked.folder or usual_folder()
    plan = RatesPlan(asked.least, asked.memory, asked.file, folder)
    try:
        program = Native()
    except OSError as error:
        run.sources.faults.append(Fault("absent", "rates: %s" % error))
        return run.capture(run.account())
    try:
        read_rates(run.sources, program, plan, run.progress)
    finally:
        program.close()
    return run.capture(run.account())
