"""Documents as tables for reading on a terminal."""

from collections.abc import Iterable
from typing import Any

from rich.console import Console
from rich.table import Table

from haremile.core.records.units import Scale, scale_for

Document = dict[str, Any]


def print_table(
    head: Iterable[str], rows: Iterable[Iterable[str]], show_header: bool = True
) -> None:
    """A table without lines, as wide as it needs to be."""
    table = Table(*head, box=None, show_header=show_header)
    for row in rows:
        table.add_row(*row)
    Console(soft_wrap=True).print(table)


def limits_text(interval: Document | None, scale: Scale) -> str:
    """``9.1 to 9.8 (97.9 %)``; open where a limit is infinite."""
    if interval is None:
        return "none at this n"
    low, high = (_number(interval[side], scale) for side in ("low", "high"))
    return f"{low} to {high} ({interval['level'] * 100:.1f} %)"


def _number(value: float | None, scale: Scale) -> str:
    return "no limit" if value is None else scale.number(value)


def summary_row(group: Document) -> list[str]:
    """One group of a summary."""
    start = group["conditions"].get("start")
    label = f"{group['metric']}, {start}" if start else group["metric"]
    head = [group["system"], group["machine"], label, str(group["n"]), str(group["failed"])]
    if group["n"] == 0:
        return [*head, "no readings", ""]
    scale = scale_for(group["unit"], group["median"] or group["max"])
    middle = "timed out" if group["median"] is None else scale.amount(group["median"])
    return [*head, middle, limits_text(group["median_interval"], scale)]


def contrast_rows(found: Document) -> list[tuple[str, str]]:
    """The facts of two systems, name and value."""
    typical = found["median_a"] if found["median_a"] is not None else found["median_b"] or 1.0
    scale, shift, test = scale_for(found["unit"], typical), found["shift"], found["mann_whitney"]
    rows = [
        (name, f"{_amount(found[f'median_{side}'], scale)} (n = {found[f'n_{side}']})")
        for side, name in (("a", found["a"]), ("b", found["b"]))
    ]
    estimate = _amount(shift["estimate"], scale)
    rows.append(("typical difference", f"{estimate}, {limits_text(shift, scale)}"))
    rows.append(("its interval", found["method"]))
    if found["ratio"] is not None:
        ratio = found["ratio"]
        rows.append(
            (
                "ratio",
                f"{_plain(ratio['estimate'])} ({_plain(ratio['low'])} to {_plain(ratio['high'])})",
            )
        )
    rows += [
        ("chance that B is lower", f"{found['probability_b_lower'] * 100:.0f} %"),
        (f"rank-sum test, {test['method']}", _p_text(test["p"])),
    ]
    if found["signed_rank"] is not None:
        test = found["signed_rank"]
        rows.append((f"signed-rank test, {test['method']}", _p_text(test["p"])))
    reliable = found["reliability"]
    rows.append(
        (
            "failed runs",
            f"{reliable['failed_a']} of {reliable['runs_a']} against "
            f"{reliable['failed_b']} of {reliable['runs_b']}, {_p_text(reliable['p'])}",
        )
    )
    if found["verdict"] is not None:
        lean = f", leaning to {found['lean']}" if found["lean"] else ""
        rows.append(("verdict", f"{found['verdict']}{lean}"))
    rows.append(("speaks of", found["scope"]))
    return rows + [_condition_row(d) for d in found["fair_start"] if d["grade"] != "same"]


def _condition_row(found: Document) -> tuple[str, str]:
    values = ", ".join("not stated" if v is None else v for v in found["values"])
    then = f"overridden: {found['overridden']}" if found["overridden"] else found["remedy"]
    return found["grade"], f"{found['key']}: {values}; {then}"


def _plain(value: float | None) -> str:
    return "no limit" if value is None else f"{value:.3f}"


def _amount(value: float | None, scale: Scale) -> str:
    return "beyond the time limit" if value is None else scale.amount(value)


def _p_text(p: float | None) -> str:
    return "p undefined" if p is None else f"p = {p:.3g}"


def field_row(lane: Document, pair: Document | None, unit: str) -> list[str]:
    """One contender of a field."""
    if lane["n"] == 0:
        return [lane["system"], "0", str(lane["failed"]), "no readings", "", "", ""]
    scale = scale_for(unit, lane["median"] or 1.0)
    place = lane["standing"]
    standing = (
        "" if place is None else "to".join(dict.fromkeys(f" {one} " for one in place)).strip()
    )
    head = [lane["system"], str(lane["n"]), str(lane["failed"]), _amount(lane["median"], scale)]
    if pair is None:
        return [*head, standing, "baseline", ""]
    return [*head, standing, _amount(pair["shift"]["estimate"], scale), str(pair["verdict"])]


def machines_row(pair: Document) -> list[str]:
    """One pair over machines."""
    interval = pair["interval"]
    limits = (
        f"{interval['low']:.3f} to {interval['high']:.3f} ({interval['level'] * 100:.1f} %)"
        if interval
        else "none"
    )
    turned = "machines disagree" if pair["disagree"] else ""
    return [pair["b"], pair["a"], f"{pair['geometric_mean']:.3f}", limits, turned]


def total_row(one: Document) -> list[str]:
    """One system's total with its parts."""
    parts = ", ".join(f"{part['metric']} {part['points']:.1f}" for part in one["parts"])
    if one["total"] is None:
        return [one["system"], "none", f"lacks {', '.join(one['missing'])}", parts]
    limits = one["interval"]
    text = f"{limits['low']:.1f} to {limits['high']:.1f} ({limits['method']})"
    return [one["system"], f"{one['total']:.1f}", text, parts]
