"""The probe as a program."""

import sys

from haremile_probe.main import main

if __name__ == "__main__":
    sys.exit(main())
