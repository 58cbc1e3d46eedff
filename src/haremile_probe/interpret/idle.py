"""Idle memory under each definition, the curve until it settled, processes and processor."""

from typing import Dict, List, Optional

from haremile_probe.interpret.about import compressed_bytes
from haremile_probe.interpret.account import Account
from haremile_probe.parsers.cpu import busy_share, parse_cpu_time
from haremile_probe.parsers.meminfo import MemoryUse, memory_use, parse_meminfo
from haremile_probe.parsers.path_values import parse_path_values, values_like, whole_number
from haremile_probe.parsers.process_stats import parse_process_stats
from haremile_probe.parsers.settling import SettleRule, parse_rule, settled
from haremile_probe.wire import CaptureReading, CaptureTrace, Fault, Record

KIB = 1024.0
AT = "meminfo-at-"


def parse_counts(text: str) -> Dict[str, int]:
    """Read ``NAME VALUE`` lines."""
    found = {}
    for line in text.splitlines():
        name, _, value = line.partition(" ")
        found[name] = whole_number(value, name)
    return found


def tell(account: Account) -> None:
    """Readings of idle memory, processes and processor; the curve as a trace."""
    rule = account.read("settle-rule", parse_rule)
    if rule is None:
        return
    account.condition("settle_rule", rule.text)
    samples = account.all("meminfo")
    uses = [account.parsed("meminfo", _use, record.text) for record in samples]
    if not uses or any(use is None for use in uses):
        return
    levels = [float(use.used) for use in uses if use is not None]
    times = [record.uptime_s for record in samples]
    account.traces.append(CaptureTrace("memory.used", "B", times, levels))
    _picked(account, samples, levels, rule)
    _instants(account)
    _of_processes(account)
    _processor(account)


def _use(text: str) -> MemoryUse:
    return memory_use(parse_meminfo(text))


def _picked(account: Account, samples: List[Record], levels: List[float], rule: SettleRule) -> None:
    times = [record.uptime_s for record in samples]
    found, end = None, 0
    while found is None and end < len(times):
        end += 1
        found = settled(times[:end], levels[:end], rule)
    if found is None:
        if not any("did not settle" in fault.what for fault in account.faults):
            account.faults.append(Fault("timed-out", "memory did not settle: no idle reading"))
        return
    account.facts["settled_at_s"] = found.at_s
    account.condition("since_boot", "%.0f s" % found.at_s)
    use = account.parsed("meminfo", _use, samples[found.pick].text)
    if use is not None:
        for key, value in use.by_metric().items():
            account.add(key, float(value), "B", "probe", KIB)
        account.records.append(
            Record("picked-meminfo", times[found.pick], samples[found.pick].text)
        )


def _instants(account: Account) -> None:
    """Readings at stated times since boot: lanes of their own, told apart by their rule.

    `step` is the instant in seconds, so that one capture may hold several of one metric.
    """
    for record in [r for r in account.records if r.name.startswith(AT)]:
        use = account.parsed(record.name, _use, record.text)
        at = account.parsed(record.name, _whole_seconds, record.name[len(AT) :])
        if use is not None and at is not None:
            rule = {"settle_rule": "at %d s since boot" % at}
            account.readings += [
                CaptureReading(key, float(value), "B", "probe", KIB, at, rule)
                for key, value in use.by_metric().items()
            ]


def _whole_seconds(text: str) -> int:
    return whole_number(text, "an instant")


def _of_processes(account: Account) -> None:
    sums = account.read("process-memory", parse_counts)
    if sums is not None:
        account.facts["process_memory"] = sums
        if sums.get("denied"):
            account.faults.append(
                Fault(
                    "denied",
                    "memory.pss: %d processes of others could not be read" % sums["denied"],
                )
            )
        elif "pss" in sums:
            account.add("memory.pss", float(sums["pss"]), "B", "probe", KIB)
        if "rss" in sums:
            account.add("memory.rss", float(sums["rss"]), "B", "probe", 4 * KIB)
    own = account.read("probe-memory", parse_counts)
    if own is not None:
        account.facts["probe_memory"] = own
    values = account.read("compressed-swap", parse_path_values) or {}
    stats = [value for _, value in values_like(dict(values), "/sys/block/*/mm_stat")]
    compressed: Optional[int] = compressed_bytes(account, stats) if stats else None
    account.add(
        "memory.swap_compressed", None if compressed is None else float(compressed), "B", "probe"
    )
    processes = account.read("processes", parse_process_stats)
    if processes is not None:
        own_processes = [process for process in processes if not process.is_kernel]
        account.add("process.count", float(len(own_processes)), "1", "probe")
        account.add("thread.count", float(sum(p.threads for p in own_processes)), "1", "probe")


def _processor(account: Account) -> None:
    """Busy share between the start of watching and the settled instant."""
    times = [account.parsed("stat", parse_cpu_time, record.text) for record in account.all("stat")]
    if len(times) >= 2 and times[-2] and times[-1]:
        first, last = times[-2], times[-1]
        share = account.parsed("stat", lambda _: busy_share(first, last), "")
        account.add("cpu.busy", share, "share", "probe")
