"""What really changed in a window: its picture now against its picture before.

Some toolkits paint their whole window anew for a caret that blinks, or a whole line for a letter.
What was damaged says little then; how many pixels changed does.
"""

from typing import Any, NamedTuple, Optional

EVERY_PLANE = 0xFFFFFFFF
BYTES_PER_PIXEL = 4
MOST_PIXELS = 8192 * 8192


class Shot(NamedTuple):
    """A window's picture: its width in pixels, and its rows one after the other."""

    width: int
    data: bytes


def shoot(display: Any, window_id: int) -> Optional[Shot]:
    """The window's picture; None where it cannot be had (it is gone, or partly off the screen)."""
    from Xlib import X, error

    window = display.create_resource_object("window", window_id)
    try:
        size = window.get_geometry()
        if not 0 < size.width * size.height <= MOST_PIXELS or size.depth < 24:
            return None
        found = window.get_image(0, 0, size.width, size.height, X.ZPixmap, EVERY_PLANE)
    except error.XError:
        return None
    data = bytes(found.data)
    if len(data) != size.width * size.height * BYTES_PER_PIXEL:
        return None
    return Shot(size.width, data)


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
