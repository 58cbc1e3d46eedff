import json

from haremile.rigs.guest import accelerator
from haremile.rigs.guest.accelerator import BOOT_ID, AcceleratorProof
from haremile.rigs.guest.build import GuestImages


def proof(tmp_path, monkeypatch, device_exists=True):
    device = tmp_path / "kvm"
    if device_exists:
        device.touch()
    monkeypatch.setattr(accelerator, "DEVICE", device)
    return AcceleratorProof(GuestImages(tmp_path), tmp_path / "known.json")


def test_without_the_device_it_is_emulation(tmp_path, monkeypatch):
    assert proof(tmp_path, monkeypatch, device_exists=False)() == "tcg"


def test_one_trial_is_remembered_until_the_host_restarts(tmp_path, monkeypatch):
    made = proof(tmp_path, monkeypatch)
    trials = []
    monkeypatch.setattr(made, "_trial", lambda: trials.append(1) or True)
    assert [made(), made()] == ["kvm", "kvm"]
    assert len(trials) == 1
    (tmp_path / "known.json").write_text(json.dumps({"host_boot": "other", "accelerator": "kvm"}))
    monkeypatch.setattr(made, "_trial", lambda: False)
    assert made() == "tcg"


def test_a_memory_cut_short_is_tried_anew(tmp_path, monkeypatch):
    made = proof(tmp_path, monkeypatch)
    (tmp_path / "known.json").write_text("{")
    monkeypatch.setattr(made, "_trial", lambda: False)
    assert made() == "tcg"
    assert (
        json.loads((tmp_path / "known.json").read_text())["host_boot"]
        == BOOT_ID.read_text().strip()
    )
