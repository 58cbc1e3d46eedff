"""One module for each thing the probe can be asked: its arguments, and what it reads.

Only the one asked for is loaded: the probe is compiled anew at each start.
"""
