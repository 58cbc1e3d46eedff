"""Load: one more page after another until a stated rule ends it."""
