"""What an install's recipe says of its virtual machine.

| line | meaning |
|---|---|
| ``image`` | one of the systems built here, or the path of a disk (qcow2, raw, img) or live system (iso) |
| ``memory_mib``, ``cores`` | of the machine (1024, 1) |
| ``bus`` | virtio, sata, ide, nvme or scsi |
| ``firmware`` | bios or uefi |
| ``disk_mib`` | the disk's size, no smaller than the image; a live system has an empty disk of it |
| ``keep`` | ``yes``: disk changes stay; else they are thrown away |
| ``ready`` | probe, serial:TEXT, port:NUMBER, screen, or screen:FILE (a picture that it has to look like) |
| ``quiet_s`` | how long the screen has to keep still (15) |
| ``ready_limit_s``, ``off_limit_s`` | how long is waited (600, 120) |
| ``then`` | what the probe inside is asked after a boot, parted by ``;``: ``idle --window 10; launch:Coppicer`` |
| ``app.NAME`` | the command or desktop entry of an application inside |
| ``probe.PROCEDURE`` | options of the probe for a procedure |
| ``clock`` | host, or counted |
"""  # noqa: E501

import tarfile
import tempfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

from haremile.errors import BadInputError, MissingHereError
from haremile.rigs.guest.debian_build import RECIPES, DebianImage
from haremile.rigs.guest.qcow2 import check_image
from haremile.rigs.guest.ready import ByPort, ReadyWay, ready_way
from haremile.rigs.guest.spec import FORMATS, LIVE, GuestSpec

Recipe = Mapping[str, str]

BUILT = {recipe.name: recipe for recipe in RECIPES.values()}
QUIET_S = 15


def image_spec(
    recipe: Recipe, folder: Path, accelerator: str, clock: str, tools: Path | None
) -> GuestSpec:
    """The virtual machine of a system on a disk.

    Raises
    ------
    BadInputError
        If a line is not valid, or its image is no file.
    MissingHereError
        If it is to be built first.
    """
    name = recipe.get("image", "")
    ready = ready_of(recipe)
    shared = {
        "cores": whole(recipe, "cores", 1),
        "bus": recipe.get("bus", "virtio"),
        "firmware": recipe.get("firmware", "bios"),
        "disk_mib": disk_size(recipe),
        "tools": tools,
        "has_screen": True,
        "keeps_changes": _is_kept(recipe),
        "forward": ready.port if isinstance(ready, ByPort) else None,
    }
    if name in BUILT:
        image = DebianImage(folder, BUILT[name])
        if not image.is_built:
            kind = next(key for key, made in RECIPES.items() if made.name == name)
            raise MissingHereError(f"{name} is not built; run: ./haremile guest build {kind}")
        memory_mib = whole(recipe, "memory_mib", image.recipe.memory_mib)
        return GuestSpec(
            image.kernel,
            image.initrd,
            accelerator,
            clock,
            memory_mib,
            append=recipe.get("append", ""),
            disk=image.disk,
            **shared,  # type: ignore[arg-type]
        )
    path = Path(name)
    kinds = [*FORMATS, LIVE]
    if path.suffix.lower() not in kinds or not path.is_absolute():
        known = ", ".join([*BUILT, f"or the whole path of a file ending in {', '.join(kinds)}"])
        raise BadInputError(f"unknown guest image: {name}; expected one of {known}")
    if not path.is_file():
        raise BadInputError(f"the guest image {name} is no file on this host")
    if FORMATS.get(path.suffix.lower()) == "qcow2":
        check_image(path)
    is_live = path.suffix.lower() == LIVE
    place = {"live": path} if is_live else {"disk": path}
    return GuestSpec(
        None,
        None,
        accelerator,
        clock,
        whole(recipe, "memory_mib", 1024),
        **place,  # type: ignore[arg-type]
        **shared,  # type: ignore[arg-type]
    )


def ready_of(recipe: Recipe, folder: Path | None = None) -> ReadyWay:
    """How it is told that the system is ready: from inside where it was built here. The picture of
    a screen that was ready is left in `folder`."""
    usual = "probe" if recipe.get("image", "") in BUILT else "screen"
    keep = folder and folder / f"{Path(recipe.get('image', '')).stem}.ppm"
    quiet_s = float(whole(recipe, "quiet_s", QUIET_S))
    return ready_way(recipe.get("ready", usual), quiet_s, keep)


def medium_of(recipe: Recipe) -> str:
    """Whether it is a live session or installed."""
    return "live" if recipe.get("image", "").lower().endswith(LIVE) else "installed"


def whole(recipe: Recipe, key: str, usual: int) -> int:
    """A line that holds a positive whole number. Raises BadInputError."""
    text = recipe.get(key, str(usual))
    if not text.isdecimal() or int(text) < 1:
        raise BadInputError(f"{key} is a positive whole number, not {text}")
    return int(text)


def disk_size(recipe: Recipe) -> int | None:
    """MiB of its disk; None for as large as the image. Raises BadInputError."""
    return whole(recipe, "disk_mib", 1) if "disk_mib" in recipe else None


def _is_kept(recipe: Recipe) -> bool:
    text = recipe.get("keep", "no")
    if text not in ("yes", "no"):
        raise BadInputError(f"keep is yes or no, not {text}")
    return text == "yes"


@contextmanager
def tools_disk(archive: Callable[[], Path] | None) -> Iterator[Path | None]:
    """A disk that holds the present probe, for the agent inside; None where there is no probe."""
    if archive is None:
        yield None
        return
    with tempfile.TemporaryDirectory(prefix="hm-guest-tools-", dir="/tmp") as folder:
        disk = Path(folder) / "tools.tar"
        with tarfile.open(disk, "w") as packed:
            packed.add(archive(), "haremile-probe.pyz")
        Path(folder).chmod(0o755)  # the emulator runs as another user, and the probe is no secret
        yield disk
