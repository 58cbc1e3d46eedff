"""Use cases: plan, conduct, take in, find, report. They know the store and the rigs as protocols."""
