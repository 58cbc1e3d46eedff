"""Errors as problem details."""

import json

import pytest

from haremile.api.problems import MEDIA_TYPE, problem_of
from haremile.errors import (
    BadInputError,
    ConflictError,
    DeletedError,
    HareMileError,
    NotAllowedError,
    NotFoundError,
    StoreUnavailableError,
)


@pytest.mark.parametrize(
    ("error", "status", "title"),
    [
        (BadInputError("repeats must be positive"), 422, "Not valid"),
        (NotAllowedError("only the owner may"), 403, "Not allowed"),
        (DeletedError("study", "7"), 410, "Deleted for good"),
        (NotFoundError("study", "7"), 404, "Not found"),
        (ConflictError("it is running"), 409, "Not in this state"),
        (StoreUnavailableError("no answer"), 503, "The database does not answer"),
        (HareMileError("something else"), 500, "It failed"),
    ],
)
def test_each_deliberate_error_has_its_status_and_says_why(error, status, title):
    answer = problem_of(error)
    body = json.loads(answer.body)
    assert (answer.status_code, answer.media_type) == (status, MEDIA_TYPE)
    assert (body["status"], body["title"], body["detail"]) == (status, title, str(error))
