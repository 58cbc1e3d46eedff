"""Windows of a Wayland session, seen as what an application says to its compositor."""
