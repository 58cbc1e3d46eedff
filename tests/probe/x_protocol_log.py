"""Between one application and the X server: writes down what passes, with the time of each piece.

Used as ``x_protocol_log.py LOG COMMAND...``: the command is given a display of its own, whose
connections are handed on to the real one. Two lines that matter are written to LOG as they happen,
seconds on the monotonic clock: ``mapped SECONDS`` when the server says that a top-level window is
mapped (core protocol, MapNotify), ``asked SECONDS`` when the application asks for that, and
``drawn SECONDS AREA`` for every request that draws, with the square pixels that it may change.
"""

import array
import os
import selectors
import socket
import struct
import subprocess
import sys
import time

from Xlib import display as x_display

CREATE, MAP = 1, 8
CLEAR_AREA, COPY_AREA, COPY_PLANE, FILL_RECTANGLES, PUT_IMAGE = 61, 62, 63, 70, 72
TEXTS = frozenset({74, 75, 76, 77})
DRAWING = frozenset(range(61, 78)) - {71, 73}
GLYPH_AREA = 8 * 16
MAP_NOTIFY, GENERIC, REPLY = 19, 35, 1
EXTENSIONS = {"RENDER": {8, 10, 23, 24, 25, 26}, "MIT-SHM": {3}, "Present": {1}}
COMPOSITE, RENDER_FILL = 8, 26
MOST_FDS = 16


class Direction:
    """The bytes of one direction, cut into messages."""

    def __init__(self):
        self.rest = b""

    def messages(self, data, size_of):
        self.rest += data
        while (size := size_of(self.rest)) and len(self.rest) >= size:
            yield self.rest[:size]
            self.rest = self.rest[size:]


def rectangles(message, start):
    """The area of a list of x, y, width, height at the end of a request."""
    found = struct.iter_unpack("<hhHH", message[start : start + (len(message) - start) // 8 * 8])
    return sum(width * height for _, _, width, height in found)


def core_area(message):
    """What a core request may change, in square pixels; of one that draws lines, none."""
    opcode = message[0]
    if opcode == FILL_RECTANGLES:
        return rectangles(message, 12)
    if opcode in TEXTS:
        return message[1] * GLYPH_AREA if opcode > 75 else (len(message) - 16) * GLYPH_AREA
    place = {CLEAR_AREA: 12, COPY_AREA: 24, COPY_PLANE: 24, PUT_IMAGE: 12}.get(opcode)
    if place is None:
        return 0
    width, height = struct.unpack_from("<HH", message, place)
    return width * height or 2**31  # a whole window is cleared with nought


def extension_area(name, message):
    """The same of a request of an extension; what is not looked into may change all."""
    if name == "MIT-SHM":
        width, height = struct.unpack_from("<HH", message, 20)
        return width * height
    if name == "RENDER" and message[1] == COMPOSITE:
        width, height = struct.unpack_from("<HH", message, 32)
        return width * height
    if name == "RENDER" and message[1] == RENDER_FILL:
        return rectangles(message, 20)
    if name == "RENDER":
        return (len(message) - 28) // 4 * GLYPH_AREA
    return 2**31


class Connection:
    """One connection of the application."""

    def __init__(self, client, server, opcodes, root, say):
        self.client, self.server, self.say, self.root = client, server, say, root
        self.opcodes = opcodes
        self.to_server, self.to_client = Direction(), Direction()
        self.is_set_up = {"client": False, "server": False}
        self.top = set()

    def request_size(self, data):
        if not self.is_set_up["client"]:
            if len(data) < 12:
                return 0
            name, secret = struct.unpack_from("<HH", data, 6)
            return 12 + (name + 3) // 4 * 4 + (secret + 3) // 4 * 4
        if len(data) < 8:
            return 4 if len(data) >= 4 and struct.unpack_from("<H", data, 2)[0] == 1 else 0
        units = struct.unpack_from("<H", data, 2)[0]
        return 4 * (units or struct.unpack_from("<I", data, 4)[0])

    def answer_size(self, data):
        if len(data) < 8:
            return 0
        if not self.is_set_up["server"]:
            return 8 + 4 * struct.unpack_from("<H", data, 6)[0]
        if data[0] == REPLY or data[0] & 0x7F == GENERIC:
            return 32 + 4 * struct.unpack_from("<I", data, 4)[0]
        return 32

    def sent(self, data, at):
        for message in self.to_server.messages(data, self.request_size):
            if not self.is_set_up["client"]:
                self.is_set_up["client"] = True
                continue
            opcode = message[0]
            if opcode == CREATE and struct.unpack_from("<I", message, 8)[0] == self.root:
                self.top.add(struct.unpack_from("<I", message, 4)[0])
            elif opcode == MAP and struct.unpack_from("<I", message, 4)[0] in self.top:
                self.say("asked", at)
            elif opcode in DRAWING:
                self.say("drawn", at, core_area(message))
            elif message[1] in self.opcodes.get(opcode, ("", ()))[1]:
                name = self.opcodes[opcode][0]
                self.say("drawn", at, extension_area(name, message))

    def answered(self, data, at):
        for message in self.to_client.messages(data, self.answer_size):
            if not self.is_set_up["server"]:
                self.is_set_up["server"] = True
            elif message[0] & 0x7F == MAP_NOTIFY:
                window = struct.unpack_from("<I", message, 8)[0]
                if window in self.top:
                    self.say("mapped", at)


def handed_on(source, target):
    """What came from one side, given to the other with its descriptors; None at the end."""
    data, fds, _, _ = socket.recv_fds(source, 2**16, MOST_FDS)
    at = time.monotonic()
    if not data:
        return None, at
    left = memoryview(data)
    if fds:
        rights = [(socket.SOL_SOCKET, socket.SCM_RIGHTS, array.array("i", fds))]
        left = left[target.sendmsg([left], rights) :]
        for fd in fds:
            os.close(fd)
    target.sendall(left)
    return data, at


def free_display():
    """A socket of a display that is nobody's; an abstract one, of which nothing is left behind."""
    for number in range(600, 700):
        path = f"\0/tmp/.X11-unix/X{number}"
        listener = socket.socket(socket.AF_UNIX)
        try:
            listener.bind(path)
        except OSError:
            listener.close()
            continue
        listener.listen()
        return number, listener
    raise SystemExit("no free display")


def main():
    log, command = sys.argv[1], sys.argv[2:]
    real = os.environ["DISPLAY"]
    opened = x_display.Display(real)
    root = opened.screen().root.id
    opcodes = {}
    for name, minors in EXTENSIONS.items():
        found = opened.query_extension(name)
        if found is not None:
            opcodes[found.major_opcode] = (name, minors)
    opened.close()
    number, listener = free_display()
    with open(log, "w", buffering=1) as file:

        def say(what, at, area=0):
            file.write(f"{what} {at!r} {area}\n")

        usual = os.getpriority(os.PRIO_PROCESS, 0)
        child = subprocess.Popen(command, env={**os.environ, "DISPLAY": f":{number}"})
        if os.geteuid() == 0:  # the log is to be right beside any load
            os.setpriority(os.PRIO_PROCESS, 0, usual - 15)
        serve(listener, real, opcodes, root, say, child)
    return child.wait()


def serve(listener, real, opcodes, root, say, child):
    chosen = selectors.DefaultSelector()
    chosen.register(listener, selectors.EVENT_READ)
    open_sides = {}
    while child.poll() is None or open_sides:
        for key, _ in chosen.select(0.2):
            if key.fileobj is listener:
                client, _ = listener.accept()
                server = socket.socket(socket.AF_UNIX)
                server.connect(f"/tmp/.X11-unix/X{real.partition(':')[2].partition('.')[0]}")
                made = Connection(client, server, opcodes, root, say)
                for side in (client, server):
                    open_sides[side] = made
                    chosen.register(side, selectors.EVENT_READ)
                continue
            one = open_sides.get(key.fileobj)
            if one is None:
                continue
            is_client = key.fileobj is one.client
            try:
                data, at = handed_on(key.fileobj, one.server if is_client else one.client)
            except OSError:
                data, at = None, 0.0
            if data is None:
                for side in (one.client, one.server):
                    open_sides.pop(side, None)
                    chosen.unregister(side)
                    side.close()
            else:
                (one.sent if is_client else one.answered)(data, at)


if __name__ == "__main__":
    sys.exit(main())
