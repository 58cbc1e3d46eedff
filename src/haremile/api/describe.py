"""``python -m haremile.api.describe``: prints the OpenAPI document."""

import json

from haremile.api.application import interface
from haremile.api.openapi import described

if __name__ == "__main__":
    print(json.dumps(described(interface()), indent=1, sort_keys=True))
