"""Errors as problem details (RFC 9457)."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException
from starlette.routing import Match

from haremile.api.schemas.base import Problem
from haremile.errors import (
    BadInputError,
    ConflictError,
    DeletedError,
    HareMileError,
    MissingHereError,
    NotAllowedError,
    NotFoundError,
    StoreUnavailableError,
)

NO_SUCH_METHOD = 405
MEDIA_TYPE = "application/problem+json"
_STATUS: tuple[tuple[type[HareMileError], int, str], ...] = (
    (BadInputError, 422, "Not valid"),
    (NotAllowedError, 403, "Not allowed"),
    (DeletedError, 410, "Deleted for good"),
    (NotFoundError, 404, "Not found"),
    (ConflictError, 409, "Not in this state"),
    (MissingHereError, 503, "Something is missing on this machine"),
    (StoreUnavailableError, 503, "The database does not answer"),
)


def problem(status: int, title: str, detail: str) -> JSONResponse:
    """A response with problem details."""
    body = Problem(title=title, status=status, detail=detail).model_dump()
    return JSONResponse(body, status_code=status, media_type=MEDIA_TYPE)


def problem_of(error: HareMileError) -> JSONResponse:
    """The answer to one of our own errors."""
    for kind, status, title in _STATUS:
        if isinstance(error, kind):
            return problem(status, title, str(error))
    return problem(500, "It failed", str(error))


def _on_known(_: Request, error: Exception) -> JSONResponse:
    if not isinstance(error, HareMileError):
        raise error
    return problem_of(error)


def _on_invalid(_: Request, error: Exception) -> JSONResponse:
    if not isinstance(error, RequestValidationError):
        raise error
    faults = [f"{'.'.join(str(p) for p in e['loc'][1:])}: {e['msg']}" for e in error.errors()]
    return problem(422, "Not valid", "; ".join(faults)[:2000])


def _on_http(request: Request, error: Exception) -> JSONResponse:
    if not isinstance(error, HTTPException):
        raise error
    answer = problem(error.status_code, str(error.detail), str(error.detail))
    answer.headers.update(error.headers or {})
    if error.status_code == NO_SUCH_METHOD:
        answer.headers["Allow"] = ", ".join(_methods_here(request))
    return answer


def _methods_here(request: Request) -> list[str]:
    """What this address knows, by all of its endpoints."""
    found: set[str] = set()
    for route in request.app.routes:
        is_page = getattr(route, "path", "").startswith("/{")
        if not is_page and route.matches(request.scope)[0] is not Match.NONE:
            found |= set(getattr(route, "methods", None) or ())
    return sorted(found)


def add_problem_handlers(app: FastAPI) -> None:
    """Answer every deliberate error with problem details."""
    app.add_exception_handler(HareMileError, _on_known)
    app.add_exception_handler(RequestValidationError, _on_invalid)
    app.add_exception_handler(HTTPException, _on_http)
