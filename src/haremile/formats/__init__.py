"""Open formats, in and out. Every `parse_…` is pure, every `read_…` does the I/O."""
