"""Hare Mile: repeated measurements of Linux systems, told apart honestly."""

__version__ = "0.1.0"
