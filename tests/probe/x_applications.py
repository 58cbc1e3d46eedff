"""Applications that behave in one known way each, for tests of the launch probe."""

import os
import select
import sys
import time

from Xlib import XK, X, Xatom, display
from Xlib.protocol import rq

from haremile_probe.x import present


def window(opened, size, kind=None, override=False):
    screen = opened.screen()
    made = screen.root.create_window(
        30,
        30,
        size[0],
        size[1],
        0,
        screen.root_depth,
        X.InputOutput,
        X.CopyFromParent,
        background_pixel=screen.white_pixel,
        event_mask=X.ExposureMask,
        override_redirect=override,
    )
    if kind:
        atoms = [opened.intern_atom(f"_NET_WM_WINDOW_TYPE_{kind}")]
        made.change_property(opened.intern_atom("_NET_WM_WINDOW_TYPE"), Xatom.ATOM, 32, atoms)
    made.map()
    opened.sync()
    return made


def blink(opened, made, side):
    """Paint a square for ever, thirty times a second."""
    pencils = [made.create_gc(foreground=colour) for colour in (0, 0xFFFFFF)]
    for number in range(10**9):
        made.fill_rectangle(pencils[number % 2], 5, 5, side, side)
        opened.sync()
        time.sleep(0.03)


def splash(opened):
    first = window(opened, (300, 200), "SPLASH")
    time.sleep(0.2)
    window(opened, (500, 400))
    first.destroy()
    opened.sync()


def crash(opened):
    window(opened, (500, 400)).destroy()
    opened.sync()
    sys.exit(7)


def caret(opened):
    blink(opened, window(opened, (500, 400)), 16)


def restless(opened):
    blink(opened, window(opened, (500, 400)), 200)


def listen(opened):
    """Opens a window whenever somebody writes into its pipe."""
    os.mkfifo(sys.argv[2])
    print("ready", flush=True)
    while True:
        with open(sys.argv[2]) as pipe:
            pipe.read()
        window(opened, (500, 400))


def ask(opened):
    with open(sys.argv[2], "w") as pipe:
        pipe.write("open")
    sys.exit(0)


def orphan(opened):
    if os.fork():
        os._exit(0)
    os.setsid()
    again = display.Display()
    window(again, (500, 400))
    time.sleep(60)


def repaint(opened):
    """Paints its whole window anew twice a second, for a caret that blinks."""
    made = window(opened, (500, 400))
    pencils = [made.create_gc(foreground=colour) for colour in (0, 0xFFFFFF)]
    for number in range(10**9):
        made.fill_rectangle(pencils[1], 0, 0, 500, 400)
        made.fill_rectangle(pencils[number % 2], 5, 5, 2, 20)
        opened.sync()
        time.sleep(0.3)


def late(opened):
    """Is mapped with nothing but its background, and paints 0.4 s later."""
    made = window(opened, (500, 400))
    time.sleep(0.4)
    made.fill_rectangle(made.create_gc(foreground=0), 10, 10, 300, 200)
    opened.sync()


def blank(opened):
    window(opened, (500, 400))


def complain(opened):
    window(opened, (300, 120), "DIALOG")


def toolbox(opened):
    window(opened, (400, 300), "UTILITY")


def flash(opened):
    """A window that goes at once, while the application stays."""
    made = window(opened, (500, 400))
    time.sleep(0.2)
    made.destroy()
    opened.sync()


def splash_only(opened):
    made = window(opened, (300, 200), "SPLASH")
    time.sleep(0.3)
    made.destroy()
    opened.sync()
    sys.exit(0)


def untyped(opened):
    """Its splash is a window like any other, for a second and a half."""
    first = window(opened, (300, 200))
    time.sleep(1.5)
    window(opened, (500, 400))
    first.destroy()
    opened.sync()


def answer(opened):
    """Answers each key so many seconds after it was pressed; where it is asked to, a caret of its
    blinks twice a second beside."""
    delay, blinks = float(sys.argv[2]), len(sys.argv) > 3
    made = window(opened, (400, 300))
    made.change_attributes(event_mask=X.ExposureMask | X.KeyPressMask)
    opened.sync()
    pencils = [
        made.create_gc(foreground=colour)
        for colour in (opened.screen().black_pixel, opened.screen().white_pixel)
    ]
    due, number, caret_at, caret = [], 0, time.monotonic() + 0.5, 0
    while True:
        moments = [*due[:1], *([caret_at] if blinks else [])]
        if opened.pending_events() == 0:
            wait = max(min(moments) - time.monotonic(), 0.0) if moments else 60.0
            select.select([opened.fileno()], [], [], wait)
        while opened.pending_events():
            if opened.next_event().type == X.KeyPress:
                due.append(time.monotonic() + delay)
        if due and time.monotonic() >= due[0]:
            due.pop(0)
            number += 1
            made.fill_rectangle(pencils[number % 2], 40, 40, 12, 18)
            opened.sync()
        if blinks and time.monotonic() >= caret_at:
            caret_at, caret = caret_at + 0.5, caret + 1
            made.fill_rectangle(pencils[caret % 2], 60, 40, 2, 18)
            opened.sync()


def menu(opened):
    """A session's own menu: it opens so many seconds after Control and Escape, and Escape closes
    it."""
    delay = float(sys.argv[2])
    root = opened.screen().root
    escape = opened.keysym_to_keycode(XK.XK_Escape)
    root.grab_key(escape, X.ControlMask, False, X.GrabModeAsync, X.GrabModeAsync)
    opened.sync()
    print("ready", flush=True)
    while True:
        while opened.next_event().type != X.KeyPress:
            pass
        time.sleep(delay)
        shown = window(opened, (200, 300), override=True)
        root.grab_keyboard(False, X.GrabModeAsync, X.GrabModeAsync, X.CurrentTime)
        while opened.next_event().type != X.KeyPress:
            pass
        shown.destroy()
        opened.ungrab_keyboard(X.CurrentTime)
        opened.sync()


def deaf(opened):
    """Shows nothing for any key."""
    window(opened, (400, 300))


def presents(opened):
    """Hands the server a picture for each refresh but every tenth, in a window within its own, and
    writes down at which refreshes they were shown."""
    book = os.open(sys.argv[2], os.O_WRONLY | os.O_CREAT)
    made = window(opened, (500, 400))
    inner = made.create_window(10, 10, 300, 200, 0, opened.screen().root_depth)
    inner.map()
    pictures = [made.create_pixmap(300, 200, opened.screen().root_depth) for _ in range(2)]
    wire = opened.display
    major = present.agreed(opened)
    mine = dict(opcode=major, event_id=wire.allocate_resource_id(), window=inner.id)
    present.SelectInput(display=wire, mask=present.COMPLETE_MASK, **mine)
    number, refresh = 0, 0
    while True:
        refresh += 2 if number % 9 == 8 else 1
        number += 1
        Show(
            display=wire,
            opcode=major,
            window=inner.id,
            pixmap=pictures[number % 2].id,
            serial=number,
            target=refresh,
        )
        told = opened.next_event()
        while getattr(told, "extension", None) != major:
            told = opened.next_event()
        refresh = told.data["msc_low"]
        os.write(book, b"%d\n" % refresh)


class Show(rq.Request):
    """Present's own request to show a picture, at a refresh."""

    _request = rq.Struct(
        rq.Card8("opcode"),
        rq.Opcode(1),
        rq.RequestLength(),
        rq.Card32("window"),
        rq.Card32("pixmap"),
        rq.Card32("serial"),
        *(rq.Card32(f"region_{end}", 0) for end in ("valid", "update")),
        rq.Pad(4),  # from its own corner
        *(rq.Card32(name, 0) for name in ("crtc", "wait_fence", "idle_fence", "options", "pad")),
        rq.Card32("target"),
        rq.Pad(4),
        rq.Pad(16),  # no divisor, no remainder
    )


BEHAVIOURS = {
    each.__name__: each
    for each in (
        splash,
        crash,
        caret,
        restless,
        listen,
        ask,
        orphan,
        repaint,
        late,
        blank,
        complain,
        toolbox,
        flash,
        splash_only,
        untyped,
        answer,
        menu,
        deaf,
        presents,
    )
}

if __name__ == "__main__":
    BEHAVIOURS[sys.argv[1]](display.Display())
    while True:
        time.sleep(60)
