"""Rates: phases of our own native program, one after the other."""

import os
from typing import List, NamedTuple, Protocol

from haremile_probe.collect.sources import Progress, Sources
from haremile_probe.interpret.rate import PHASES
from haremile_probe.native import Said
from haremile_probe.wire import Fault

MIB = 2**20


class RatesPlan(NamedTuple):
    """For how long each phase goes on at least, on how much memory, in a file of which size and
    where; no file is worked on without a folder."""

    least_s: float = 2.0
    memory_mib: int = 256
    file_mib: int = 256
    folder: str = ""
    limit_s: float = 600.0


class Program(Protocol):
    """What runs a phase."""

    def run(self, words: List[str], limit_s: float) -> Said:
        """Run it once. Raises OSError where it cannot be begun."""


def usual_folder() -> str:
    """Where the file is put: on the disk of the session's user, or of the system for root."""
    return "/var/tmp" if os.geteuid() == 0 else os.path.expanduser("~")


def read_rates(sources: Sources, program: Program, plan: RatesPlan, progress: Progress) -> None:
    """Run every phase, pinned where that tells something; what each printed is kept, and why one
    did not."""
    lines = []
    for phase, is_pinned in PHASES:
        is_storage = phase.startswith("disk_")
        if is_storage and not plan.folder:
            continue
        progress("%s%s" % (phase, ", on one processor" if is_pinned else ""))
        size = (plan.file_mib if is_storage else plan.memory_mib) * MIB
        words = [phase, "1" if is_pinned else "0", "%g" % plan.least_s, str(size)]
        try:
            said = program.run([*words, plan.folder] if is_storage else words, plan.limit_s)
        except OSError as error:
            sources.faults.append(Fault("unreadable", "rate.%s: %s" % (phase, error)))
            continue
        if said.code == 0:
            lines.append(said.out.strip())
            continue
        kind = "timed-out" if said.code is None else "unreadable"
        why = said.errors.strip() or "ended with %s" % said.code
        sources.faults.append(Fault(kind, "rate.%s: %s" % (phase, why[:200])))
    work = "least %g s, memory %d MiB" % (plan.least_s, plan.memory_mib)
    work += ", file %d MiB" % plan.file_mib if plan.folder else ", no file"
    sources.add("rate-work", work)
    sources.add("rates", "\n".join(lines) + "\n")
