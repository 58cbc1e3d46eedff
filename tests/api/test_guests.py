"""Guests put to work over HTTP: images, ladders, installs, proofs."""

from pathlib import Path
from uuid import uuid4

import pytest

DISK = b"\0" * 510 + b"\x55\xaa" + b"x" * 200


def made(client, noun, name):
    return client.post(f"/api/{noun}", json={"name": name}).json()["id"]


def ladder(client, memories=(256,), name="Guest", **more):
    asked = {"name": name, "memories": list(memories), **more}
    return client.post("/api/machines/ladder", json=asked)


@pytest.fixture
def osterfell(client):
    return made(client, "systems", "Osterfell Base")


def state(client, system, image="osterfell-base", ready="probe", **more):
    asked = {"image": image, "ready": ready, **more}
    return client.put(f"/api/systems/{system}/image", json=asked)


def test_a_ladder_is_machines_that_differ_in_their_memory_alone(client, bench):
    found = ladder(client, (1024, 256), cores=2, bus="nvme")
    assert (found.status_code, len(found.json()["ids"])) == (201, 2)
    machines = {one["name"]: one for one in client.get("/api/machines").json()}
    assert set(machines) == {"Guest, 256 MiB", "Guest, 1 GiB"}
    assert machines["Guest, 1 GiB"]["makes_guests"]
    page = client.get(f"/api/machines/{machines['Guest, 256 MiB']['id']}").json()
    stated = {line["key"]: line["found"] for line in page["lines"] if line["found"]}
    assert (stated["cores"], stated["memory"]) == ("2", "256 MiB")
    again = ladder(client, (256, 512))
    assert (again.status_code, "already" in again.json()["detail"]) == (409, True)
    assert len(client.get("/api/machines").json()) == 2


@pytest.mark.parametrize(
    "wrong",
    [
        {"memories": []},
        {"memories": [256, 256]},
        {"memories": [8]},
        {"bus": "floppy"},
        {"firmware": "none"},
        {"cores": 0},
        {"memories": list(range(32, 64))},
    ],
)
def test_what_is_no_machine_is_refused(client, wrong):
    asked = {"name": "Guest", "memories": [256], **wrong}
    assert client.post("/api/machines/ladder", json=asked).status_code == 422
    assert client.get("/api/machines").json() == []


def test_a_system_with_an_image_is_put_on_a_machine_and_follows_its_image(client, osterfell):
    (machine,) = ladder(client).json()["ids"]
    place = {"system": osterfell, "machine": machine}
    refused = client.post("/api/installs", json=place)
    assert (refused.status_code, "nothing says what" in refused.json()["detail"]) == (409, True)
    assert state(client, osterfell).status_code == 204
    install = client.post("/api/installs", json=place).json()
    assert (install["rig"], install["recipe"]["memory_mib"]) == ("guest", "256")
    assert client.post("/api/installs", json=place).json()["id"] == install["id"]
    state(client, osterfell, image="osterfell-server", limit_s=45)
    (after,) = client.get("/api/installs").json()
    assert (after["recipe"]["image"], after["recipe"]["ready_limit_s"]) == (
        "osterfell-server",
        "45",
    )
    plain = made(client, "machines", "Laptop")
    other = client.post("/api/installs", json={"system": osterfell, "machine": plain})
    assert (other.status_code, "no virtual machine" in other.json()["detail"]) == (409, True)
    nobody = client.post("/api/installs", json={"system": str(uuid4()), "machine": machine})
    assert nobody.status_code == 404


def test_only_images_of_this_host_and_known_ways_are_stated(client, osterfell):
    assert state(client, osterfell, image="/etc/passwd").status_code == 422
    assert state(client, osterfell, ready="a feeling").status_code == 422
    assert client.get(f"/api/systems/{osterfell}/image").json() == {}
    assert {"osterfell-base", "osterfell-server"} <= {
        one["image"] for one in client.get("/api/images").json()
    }


def test_an_image_is_sent_and_one_that_is_none_is_refused(client, bench, tmp_path, monkeypatch):
    monkeypatch.setattr(bench.images_here, "_own", tmp_path / "own")
    send = {"params": {"name": "mine.raw"}, "headers": {"content-type": "application/octet-stream"}}
    made = client.post("/api/images/upload", content=DISK, **send)
    assert (made.status_code, made.json()["size"]) == (201, len(DISK))
    assert made.json() in client.get("/api/images").json()
    twice = client.post("/api/images/upload", content=DISK, **send)
    assert twice.status_code == 409
    send["params"]["name"] = "none.iso"
    refused = client.post("/api/images/upload", content=b"no such thing", **send)
    assert (refused.status_code, "not what its name says" in refused.json()["detail"]) == (
        422,
        True,
    )
    source = tmp_path / "other.raw"
    source.write_bytes(DISK)
    copied = client.post("/api/images/copy", json={"path": str(source)})
    assert (copied.status_code, copied.json()["label"]) == (201, "other.raw")
    assert client.post("/api/images/copy", json={"path": "/no/where.raw"}).status_code == 422


def test_an_own_image_is_deleted_unless_guests_boot_it(client, osterfell, tmp_path):
    source = tmp_path / "spare.raw"
    source.write_bytes(DISK)
    kept = client.post("/api/images/copy", json={"path": str(source)}).json()
    asked = {"image": kept["image"], "ready": "screen"}
    assert client.put(f"/api/systems/{osterfell}/image", json=asked).status_code == 204
    refused = client.delete("/api/images/spare.raw")
    assert (refused.status_code, "boot it" in refused.json()["detail"]) == (409, True)
    state(client, osterfell)
    assert client.delete("/api/images/spare.raw").status_code == 204
    assert not Path(kept["image"]).exists()
    assert client.delete("/api/images/spare.raw").status_code == 404


def test_no_study_starts_beside_a_proof(client, bench, osterfell):
    (machine,) = ladder(client).json()["ids"]
    state(client, osterfell)
    place = {"system": osterfell, "machine": machine}
    proof = client.post("/api/proofs", json=place).json()
    refused = client.post("/api/studies/first-mile", json={"blocks": 5})
    assert (refused.status_code, "is being proved" in refused.json()["detail"]) == (409, True)
    assert bench.studies.digests() == []
    client.delete(f"/api/proofs/{proof['id']}")
    over(client, proof["id"])


def over(client, proof):
    while not (found := client.get(f"/api/proofs/{proof}").json())["is_over"]:
        pass
    return found


def test_a_system_is_proved_by_one_boot_that_counts_for_nothing(client, bench, osterfell):
    (machine,) = ladder(client).json()["ids"]
    state(client, osterfell)
    place = {"system": osterfell, "machine": machine}
    started = client.post("/api/proofs", json=place)
    assert started.status_code == 202
    second = client.post("/api/proofs", json=place)
    assert (second.status_code, "another system" in second.json()["detail"]) == (409, True)
    found = over(client, started.json()["id"])
    assert (found["is_ready"], found["said"].startswith("ready seen after")) == (True, True)
    assert [one["name"] for one in found["phases"]][:2] == ["power-on", "userspace"]
    assert bench.studies.digests() == []


def test_a_proof_that_fails_says_what_to_change(client, osterfell):
    (machine,) = ladder(client, (64,)).json()["ids"]
    state(client, osterfell)
    started = client.post("/api/proofs", json={"system": osterfell, "machine": machine})
    found = over(client, started.json()["id"])
    assert not found["is_ready"]
    assert found["said"]
    assert client.get(f"/api/proofs/{uuid4()}").status_code == 422


def test_a_proof_is_ended_at_once(client, osterfell):
    (machine,) = ladder(client).json()["ids"]
    state(client, osterfell)
    started = client.post("/api/proofs", json={"system": osterfell, "machine": machine}).json()
    while not client.get(f"/api/proofs/{started['id']}").json()["phases"]:
        pass
    assert client.delete(f"/api/proofs/{started['id']}").status_code == 204
    assert not over(client, started["id"])["is_ready"]
