"""The HTTP interface: one router per noun."""
