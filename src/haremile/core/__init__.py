"""The computation: records and arrays in, small frozen results out.

Nothing here does I/O, reads a clock or draws hidden random numbers.
"""
