"""What runs on the measured machine, and how it speaks with the server.

Standard library only; Python 3.8 or newer.
"""

VERSION = "0.1.0"
