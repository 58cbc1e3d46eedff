"""Functions on arrays, as in a textbook; they know no other room of the core."""
