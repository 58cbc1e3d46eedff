"""What really changed in a window: its picture now against its picture before.

Some toolkits paint their whole window anew for a caret that blinks, or a whole line for a letter.
What was damaged says little then; how many pixels changed does.
"""

from typing import NamedTuple

BYTES_PER_PIXEL = 4
MOST_PIXELS = 8192 * 8192


class Shot(NamedTuple):
    """A window's picture: its width in pixels, and its rows one after the other."""

    width: int
    data: bytes


def changed_pixels(before: Shot, after: Shot, enough: int) -> int:
    """How many pixels are not as before; counting ends once there are more than `enough`, and a
    window of another size has changed altogether."""
    if before.width != after.width or len(before.data) != len(after.data):
        return len(after.data) // BYTES_PER_PIXEL
    if before.data == after.data:
        return 0
    stride = before.width * BYTES_PER_PIXEL
    changed = 0
    for start in range(0, len(after.data), stride):
        was, now = before.data[start : start + stride], after.data[start : start + stride]
        if was != now:
            pixels = zip(memoryview(was).cast("I"), memoryview(now).cast("I"))
            changed += sum(a != b for a, b in pixels)
            if changed > enough:
                break
    return changed
