"""What needs root, done by one small program with a closed list of verbs.

The probe itself runs as the session's user. Where the owner of a machine lets the helper run
(``haremile-probe helper serve --for USER``), the probe asks it over a socket that only that user
may open; where there is none, what would have needed it is named as denied. No verb takes a
command, and none a path that it does not check.
"""

SOCKET = "/run/haremile-probe/helper"
"""Where it listens, unless it is told otherwise."""
