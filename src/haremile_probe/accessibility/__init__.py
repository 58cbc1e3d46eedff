"""Windows as applications tell of them to a screen reader."""
