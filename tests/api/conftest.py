import pytest
from fastapi.testclient import TestClient

from haremile.api.application import create_app
from haremile.usecases.access import Role
from haremile.usecases.import_readings import import_study


@pytest.fixture
def client(bench, throwaway_url):
    app = create_app(bench, throwaway_url, None)
    headers = {"Authorization": f"Bearer {bench.access.add_person('Ida', Role.OWN)}"}
    with TestClient(app, base_url="http://127.0.0.1:8642", headers=headers) as made:
        yield made


@pytest.fixture
def stranger(client):
    """Somebody who shows nothing."""
    app = client.app
    made = TestClient(app, base_url="http://127.0.0.1:8642", follow_redirects=False)
    made.portal = client.portal
    return made


@pytest.fixture
def study(bench):
    rows = [
        f"{system},Laptop,boot.total,{base + i / 10},s"
        for system, base in (("Varrow 12", 10), ("Quillfern 8", 14))
        for i in range(8)
    ]
    body = "system,machine,metric,value,unit\n" + "\n".join(rows) + "\n"
    return import_study(bench.studies, bench.readings, "Which?", body.encode())
