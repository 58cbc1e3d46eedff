"""``python -m haremile``."""

from haremile.cli.main import main

if __name__ == "__main__":  # a bounded process loads this module too
    main()
