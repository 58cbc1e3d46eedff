"""The OpenAPI document, from which the web's types are made.

``python -m haremile.api.describe >web/src/api/openapi.json``

FastAPI describes what endpoints take and give; what the guard in front of them asks for and answers
is added here.
"""

from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi

from haremile.api.problems import MEDIA_TYPE
from haremile.api.recognition import PAGE_HEADER
from haremile.api.schemas.base import Problem
from haremile_probe.signing import MACHINE

SCHEMES = {
    "key": {
        "type": "http",
        "scheme": "bearer",
        "description": "A person's key, made by haremile key add",
    },
    "session": {
        "type": "apiKey",
        "in": "cookie",
        "name": "haremile-PORT",
        "description": "A session's cookie; together with the page's own secret",
    },
    "page": {
        "type": "apiKey",
        "in": "header",
        "name": PAGE_HEADER,
        "description": "The secret that the page of a session holds",
    },
    "machine": {
        "type": "apiKey",
        "in": "header",
        "name": MACHINE,
        "description": "A machine's key by its name, with the signature that docs/rigs.md tells",
    },
}
OF_PEOPLE: list[dict[str, list[str]]] = [{"key": []}, {"session": [], "page": []}]
OF_MACHINES: list[dict[str, list[str]]] = [{"machine": []}]

PROBLEMS = {
    "400": "It is no JSON or no form",
    "401": "Not signed in, or not signed",
    "403": "Not allowed in this role, or a foreign page",
    "404": "There is no such thing",
    "410": "It was there, and was deleted for good",
    "405": "This address knows no such method",
    "408": "The request did not arrive in time",
    "409": "Not in this state",
    "411": "A body without its length",
    "413": "Too large",
    "414": "The address is too long",
    "421": "Not for this host",
    "422": "What was asked for is not valid",
    "429": "Too many wrong keys",
    "500": "A fault of the server's own",
    "503": "Something is missing, or the database does not answer",
}


def described(app: FastAPI) -> dict[str, Any]:
    """The document of the whole interface; made once."""
    if not app.openapi_schema:
        made = get_openapi(
            title=app.title, version=app.version, routes=app.routes, description=app.description
        )
        _complete(made)
        app.openapi_schema = made
    return app.openapi_schema


def _refs(part: Any) -> set[str]:
    """Names of the schemas that a part of the document names."""
    if isinstance(part, dict):
        own = {str(part["$ref"]).rpartition("/")[2]} if "$ref" in part else set()
        return own.union(*(_refs(value) for value in part.values()))
    return set().union(*(_refs(value) for value in part)) if isinstance(part, list) else set()


def _always_sent(document: dict[str, Any]) -> None:
    """Whatever is only ever answered has all its fields, those with a default too."""
    schemas = document["components"]["schemas"]
    operations = [one for path in document["paths"].values() for one in path.values()]
    asked = set().union(*(_refs(one.get("requestBody", {})) for one in operations))
    while more := set().union(*(_refs(schemas.get(name, {})) for name in asked)) - asked:
        asked |= more
    for name, schema in schemas.items():
        if name not in asked and "properties" in schema:
            schema["required"] = list(schema["properties"])


def _complete(document: dict[str, Any]) -> None:
    _always_sent(document)
    parts = document["components"]
    parts["securitySchemes"] = SCHEMES
    parts["schemas"]["Problem"] = Problem.model_json_schema()
    for name in ("HTTPValidationError", "ValidationError"):
        parts["schemas"].pop(name, None)
    document["security"] = OF_PEOPLE
    content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    parts["responses"] = {
        f"Problem{status}": {"description": says, "content": content}
        for status, says in PROBLEMS.items()
    }
    for path, operations in document["paths"].items():
        for operation in operations.values():
            answers = operation["responses"]
            for status in PROBLEMS:
                answers[status] = {"$ref": f"#/components/responses/Problem{status}"}
            if path.startswith("/haremile-"):
                operation["security"] = []
            elif path in ("/api/rigs/enrol", "/api/rigs/step", "/api/rigs/captures"):
                operation["security"] = OF_MACHINES
