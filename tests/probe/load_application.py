"""An application for ramps whose truth is known: every page takes exactly so much memory.

    load_application.py MIB HOW AT PLACE ADDRESS

The first one stays; each later one hands its address over at the socket PLACE and ends, as browsers
do. HOW and AT say what befalls it at which page: ``carries``, ``dies``, ``stalls``, ``in-child`` (a
child takes the memory), ``alone`` (each is its own process), ``blind`` (it opens no document). The
address may be a document's path; of one that is not the probe's nothing is told.
"""

import mmap
import os
import socket
import subprocess
import sys
import threading
import time
import urllib.request

MIB = 2**20
HOLD = "import mmap,sys,time; m=mmap.mmap(-1,int(sys.argv[1])); m[:]=b'x'*len(m); time.sleep(1000)"


def say(address, what):
    place = f"{address}/sign?what={what}&delay=0"
    urllib.request.urlopen(urllib.request.Request(place, b"", method="POST")).close()


def take(size):
    """Anonymous memory, all of it touched."""
    held = mmap.mmap(-1, size)
    for at in range(0, size, mmap.PAGESIZE):
        held[at] = 1
    return held


class Application:
    def __init__(self, size, how, at):
        self.size, self.how, self.at = size, how, at
        self.pages, self.held = [], []

    def open(self, address):
        number = len(self.held) + 1
        if self.how == "dies" and number == self.at:
            os._exit(1)
        if self.how == "in-child":
            self.held.append(subprocess.Popen([sys.executable, "-c", HOLD, str(self.size)]))
        else:
            self.held.append(take(self.size))
        if address.startswith("/") and self.how != "blind":
            with open(address, "rb") as file:
                while file.read(65536):
                    pass
        if address.startswith("http://127.0.0.1:"):
            self.pages.append(address)
            say(address, "loaded")
            say(address, "painted")

    def live(self):
        while True:
            time.sleep(0.2)
            for number, address in enumerate(list(self.pages), start=1):
                if not (self.how == "stalls" and len(self.pages) >= self.at and number == 1):
                    say(address, "alive")


def main():
    size, how, at, place, address = sys.argv[1:]
    listener = socket.socket(socket.AF_UNIX)
    if how != "alone":
        try:
            listener.bind("\0" + place)
        except OSError:  # one runs already: it takes the page over
            with socket.socket(socket.AF_UNIX) as given:
                given.connect("\0" + place)
                given.sendall(address.encode())
            return
        listener.listen()
    made = Application(int(size) * MIB, how, int(at))
    threading.Thread(target=made.live, daemon=True).start()
    made.open(address)
    while True:
        if how == "alone":
            time.sleep(1000)
        client, _ = listener.accept()
        with client:
            made.open(client.recv(4096).decode())


if __name__ == "__main__":
    main()
