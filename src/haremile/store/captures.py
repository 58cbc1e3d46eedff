"""Evidence under its maker's id."""

import hashlib
from datetime import datetime
from uuid import UUID

from haremile.errors import CaptureConflictError
from haremile.store.database import rows_of
from haremile.store.rows import CaptureRow

KEEP = """
    insert into capture (id, sha256, kind, made_at, body) values (%s, %s, %s, %s, %s)
    on conflict (id) do nothing returning id
"""


def keep_capture(capture_id: UUID, body: bytes, kind: str, made_at: str | datetime | None) -> UUID:
    """Keep evidence under its maker's id; the same again changes nothing.

    Raises
    ------
    CaptureConflictError
        If the id is known with other bytes.
    """
    digest = hashlib.sha256(body).hexdigest()
    at = datetime.fromisoformat(made_at) if isinstance(made_at, str) else made_at
    if not rows_of(KEEP, capture_id, digest, kind, at, body):
        known = CaptureRow.get_by_id(capture_id)
        if known.sha256 != digest:
            raise CaptureConflictError(f"capture {capture_id} is known with other bytes")
    return capture_id
