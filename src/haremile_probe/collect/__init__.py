"""Bringing a machine's texts in: all that touches files, programs and clocks."""
