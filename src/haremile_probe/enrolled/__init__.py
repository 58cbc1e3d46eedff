"""A machine that works for a server: it asks for its next step, does it, and hands captures in.

Nothing listens here: every word goes out from this machine.
"""
