import pytest
from fastapi.testclient import TestClient

from haremile.api.application import create_app
from haremile.bench.take_in import import_study


@pytest.fixture
def client(bench, throwaway_url):
    app = create_app(bench, throwaway_url, None)
    with TestClient(app, base_url="http://127.0.0.1:8642") as made:
        yield made


@pytest.fixture
def study(bench):
    rows = [
        f"{system},Laptop,boot.total,{base + i / 10},s"
        for system, base in (("Varrow 12", 10), ("Quillfern 8", 14))
        for i in range(8)
    ]
    body = "system,machine,metric,value,unit\n" + "\n".join(rows) + "\n"
    return import_study(bench.studies, bench.readings, "Which?", body.encode())
