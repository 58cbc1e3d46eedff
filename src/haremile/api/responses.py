"""Large answers, serialised at once; those that many ask for are kept as bytes with a tag."""

import gzip
import hashlib
from dataclasses import dataclass

from fastapi import Request, Response
from pydantic import BaseModel
from pydantic_core import to_json

MEDIA_TYPE = "application/json"
SQUEEZED = 5
"""Level at which kept bytes are compressed: once, for everybody."""


def serialised(answer: BaseModel) -> Response:
    """The answer as JSON. The framework would check and copy it once more, which for a study of
    thousands of readings takes longer than everything else."""
    return Response(answer.model_dump_json(), media_type=MEDIA_TYPE)


@dataclass(frozen=True)
class KeptAnswer:
    """An answer as it goes over the wire; `tag` is its entity tag (RFC 9110)."""

    tag: str
    plain: bytes
    squeezed: bytes

    @classmethod
    def of(cls, answer: object) -> "KeptAnswer":
        """The bytes of an answer, a schema or a frozen record, made once."""
        body = to_json(answer)
        tag = f'"{hashlib.sha256(body).hexdigest()[:32]}"'
        return cls(tag, body, gzip.compress(body, SQUEEZED))

    def answer(self, request: Request) -> Response:
        """To whoever asks: nothing but the tag where they have it already."""
        headers = {
            "ETag": self.tag,
            "Cache-Control": "private, no-cache",
            "Vary": "Accept-Encoding",
        }
        known = request.headers.get("if-none-match", "")
        if self.tag in [one.strip().removeprefix("W/") for one in known.split(",")]:
            return Response(status_code=304, headers=headers)
        if "gzip" not in request.headers.get("accept-encoding", ""):
            return Response(self.plain, media_type=MEDIA_TYPE, headers=headers)
        headers["Content-Encoding"] = "gzip"
        return Response(self.squeezed, media_type=MEDIA_TYPE, headers=headers)
