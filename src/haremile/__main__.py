"""``python -m haremile``."""

from haremile.cli.main import main

main()
