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
    other = {"host_boot": "other", "accelerator": "kvm", "at": 0.0}
    (tmp_path / "known.json").write_text(json.dumps(other))
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


def test_a_no_is_asked_anew_after_some_hours_and_a_yes_is_not(tmp_path, monkeypatch):
    made = proof(tmp_path, monkeypatch)
    now = [1e9]
    monkeypatch.setattr(accelerator.time, "time", lambda: now[0])
    answers = [False, True]
    monkeypatch.setattr(made, "_trial", lambda: answers.pop(0))
    assert [made(), made()] == ["tcg", "tcg"]
    now[0] += accelerator.AGAIN_S
    assert made() == "kvm"
    now[0] += 10 * accelerator.AGAIN_S
    assert made() == "kvm"
    assert answers == []


def test_a_crowded_host_gives_the_trial_more_time(monkeypatch):
    monkeypatch.setattr(accelerator.os, "cpu_count", lambda: 2)
    monkeypatch.setattr(accelerator.os, "getloadavg", lambda: (8.0, 0.0, 0.0))
    assert accelerator.trial_s() == 4 * accelerator.TRIAL_S
    monkeypatch.setattr(accelerator.os, "getloadavg", lambda: (0.1, 0.0, 0.0))
    assert accelerator.trial_s() == accelerator.TRIAL_S
