"""Totals over measures."""
