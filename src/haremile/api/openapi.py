"""The OpenAPI document, from which the web's types are made.

``python -m haremile.api.openapi >web/src/api/openapi.json``
"""

import json
from typing import Any, cast

from haremile.api.application import create_app
from haremile.api.ports import BenchParts


def openapi_document() -> dict[str, Any]:
    """Describe the interface; needs no bench, since nothing is called."""
    return create_app(cast(BenchParts, None), "", None).openapi()


if __name__ == "__main__":
    print(json.dumps(openapi_document(), indent=1, sort_keys=True))
