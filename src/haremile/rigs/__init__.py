"""What operates a machine."""
