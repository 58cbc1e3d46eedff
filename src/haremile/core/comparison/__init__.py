"""From readings to verdicts: comparability, margins, findings."""
