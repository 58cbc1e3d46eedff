"""Readings drawn from a stated truth."""
