"""Large answers, serialised at once."""

from fastapi import Response
from pydantic import BaseModel


def serialised(answer: BaseModel) -> Response:
    """The answer as JSON. The framework would check and copy it once more, which for a study of
    thousands of readings takes longer than everything else."""
    return Response(answer.model_dump_json(), media_type="application/json")
