"""Pure readers of what a machine says of itself: one module per source, nothing guessed."""


class UnreadableError(ValueError):
    """A source's text is not what it should be; the message says what was met."""
