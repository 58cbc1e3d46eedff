"""The interface described by itself."""

from typing import Any

from fastapi import APIRouter, Request

from haremile.api.openapi import described

router = APIRouter(include_in_schema=False)


@router.get("/openapi.json")
def get_document(request: Request) -> dict[str, Any]:
    """The OpenAPI document."""
    return described(request.app)
