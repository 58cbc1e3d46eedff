"""Frozen records: what is measured, on what, under which conditions; they know no other room."""
