"""Use cases: plan, conduct, take in, find, report. They know stores and rigs as protocols."""
