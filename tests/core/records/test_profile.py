import pytest

from haremile.core.records.profile import MachineProfile
from haremile.errors import BadInputError


def test_a_profile_states_facts_and_lines_of_a_recipe():
    made = MachineProfile(2, 1024, "nvme", "uefi")
    assert made.facts()["memory"] == "1 GiB"
    assert MachineProfile(memory_mib=768).facts()["memory"] == "768 MiB"
    assert made.recipe() == {
        "cores": "2",
        "memory_mib": "1024",
        "bus": "nvme",
        "firmware": "uefi",
    }


def test_the_disks_size_is_stated_with_its_bus():
    made = MachineProfile(bus="sata", disk_mib=20 * 1024)
    assert made.facts()["storage"] == "virtual disk (sata), 20 GiB"
    assert made.recipe()["disk_mib"] == "20480"


@pytest.mark.parametrize(
    "wrong",
    [
        {"bus": "floppy"},
        {"firmware": "none"},
        {"memory_mib": 16},
        {"cores": 0},
        {"cores": 65},
        {"disk_mib": 8},
    ],
)
def test_what_is_no_machine_is_refused(wrong):
    with pytest.raises(BadInputError):
        MachineProfile(**wrong)
