"""What is said of the disk on which the bench book stands, before it is full."""

from haremile.core.records.units import MIB

LOW_BYTES, LOW_SHARE = 2048 * MIB, 0.05
FULL_BYTES = 256 * MIB
"""Below this the database may stop at any time."""


def disk_word(free: float, total: float) -> str | None:
    """What every page says of a disk with so many bytes free; None where there is enough."""
    if free < FULL_BYTES:
        return (
            f"The disk is full: {free / MIB:,.0f} MiB are free where the bench book stands. "
            "Nothing more can be kept until there is room; what is kept stays."
        )
    if free < min(LOW_BYTES, LOW_SHARE * total) or free < 2 * FULL_BYTES:
        return (
            f"The disk is nearly full: {free / MIB:,.0f} MiB are free where the bench book stands. "
            "Make room, or runs will not be kept."
        )
    return None
