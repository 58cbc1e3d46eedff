"""Images on this host from which guests can be made: those built here, and a tester's own."""

import hashlib
import json
import re
import shutil
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict
from pathlib import Path

from uuid_utils.compat import uuid7

from haremile.errors import BadInputError, ConflictError, NoSpaceError, NotFoundError
from haremile.rigs.guest.build import NAMES, GuestImages
from haremile.rigs.guest.debian_build import RECIPES, debian_image
from haremile.rigs.guest.qcow2 import check_head
from haremile.rigs.guest.recipe import ready_of
from haremile.rigs.guest.spec import FORMATS, LIVE
from haremile.usecases.ports import ImageHere

OWN = "own"
YOUR_OWN = "your own"
NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._+-]{0,120}")
CHUNK = 2**20
ISO_MARK, ISO_AT = b"CD001", 0x8001
BOOT_MARK, BOOT_AT = b"\x55\xaa", 510
HEAD = 2**20
"""So much is read before an image's kind is judged."""

LEFT_MIB = 512
"""So much room is left on the disk."""


class HostImages:
    """Lists and takes in images; a tester's own lie in a folder beside those that were built."""

    def __init__(self, root: Path):
        self._root, self._own = root, root / OWN

    def here(self) -> list[ImageHere]:
        """All images, those built here first."""
        tiny = GuestImages(self._root)
        found = [
            ImageHere(name, name, "built here", None, None) for name in NAMES if tiny.are_built
        ]
        for kind in RECIPES:
            image = debian_image(self._root, kind)
            if image.is_built:
                size = image.disk.stat().st_size
                found.append(
                    ImageHere(image.recipe.name, image.recipe.name, "built here", size, None)
                )
        for note in sorted(self._own.glob("*.json")):
            found.append(ImageHere(**json.loads(note.read_text())))
        return found

    def check(self, recipe: Mapping[str, str]) -> None:
        """Raises BadInputError where its image is none that is here, or *ready* is told by no way
        that there is."""
        image = recipe.get("image", "")
        if all(one.image != image for one in self.here()):
            raise BadInputError(f"no image {image} is on this host")
        ready_of(recipe)

    def take(self, name: str, size: int, parts: Iterable[bytes]) -> ImageHere:
        """Keep an image under its name, with its size and sha256.

        Raises
        ------
        BadInputError
            If its name or its first bytes are none of a disk or a live system, or it ends early.
        ConflictError
            If one of that name is there.
        NoSpaceError
            If it does not fit on the disk.
        """
        path = self._own / _checked_name(name)
        note = path.with_name(f"{path.name}.json")
        if note.exists():
            raise ConflictError(f"there is an image {name} already")
        self._own.mkdir(parents=True, exist_ok=True)
        self._own.chmod(0o755)  # the emulator runs as another user
        free = shutil.disk_usage(self._own).free - LEFT_MIB * 2**20
        if size > free:
            raise NoSpaceError(
                f"{name} takes {size // 2**20} MiB, {max(free, 0) // 2**20} MiB are free here"
            )
        fresh, digest, head, got = path.with_name(f"{uuid7()}.part"), hashlib.sha256(), b"", 0
        try:
            with fresh.open("wb") as file:
                for part in parts:
                    is_unjudged = len(head) < HEAD
                    if is_unjudged:
                        head += part
                    got += len(part)
                    digest.update(part)
                    file.write(part)
                    if is_unjudged and len(head) >= HEAD:
                        _check_kind(path, head)
            _check_kind(path, head)
            if got != size:
                raise BadInputError(f"{name} ended after {got} of {size} bytes; send it again")
            fresh.chmod(0o644)
            made = ImageHere(str(path), path.name, YOUR_OWN, size, digest.hexdigest())
            fresh.replace(path)
            note.write_text(json.dumps(asdict(made)))
        finally:
            fresh.unlink(missing_ok=True)
        return made

    def copy(self, source: Path, told: Callable[[int, int], None]) -> ImageHere:
        """As `take`, from a file of this host; `told` hears how many bytes of how many are kept."""
        if not source.is_absolute() or not source.is_file():
            raise BadInputError(f"{source} is no file on this host; state its whole path")
        size = source.stat().st_size

        def parts() -> Iterable[bytes]:
            done = 0
            with source.open("rb") as file:
                while part := file.read(CHUNK):
                    done += len(part)
                    yield part
                    told(done, size)

        try:
            return self.take(source.name, size, parts())
        except PermissionError as error:
            raise BadInputError(f"{source} may not be read: {error.strerror}") from error

    def delete(self, name: str) -> ImageHere:
        """Delete a tester's own image. Raises NotFoundError."""
        found = next((one for one in self.here() if one.label == name), None)
        if found is None or found.origin != YOUR_OWN:
            raise NotFoundError("image", name)
        path = self._own / name
        path.with_name(f"{name}.json").unlink()  # from now on it is not there
        path.unlink(missing_ok=True)
        return found


def _checked_name(name: str) -> str:
    kinds = [*FORMATS, LIVE]
    if not NAME.fullmatch(name) or Path(name).suffix.lower() not in kinds:
        raise BadInputError(
            f"{name} is no image that is known: its name ends in {', '.join(kinds)}, and holds "
            "letters, digits, blanks and ._+- only"
        )
    return name


def _check_kind(path: Path, head: bytes) -> None:
    suffix = path.suffix.lower()
    if suffix == LIVE:
        is_one = head[ISO_AT : ISO_AT + len(ISO_MARK)] == ISO_MARK
    elif FORMATS[suffix] == "qcow2":
        check_head(head, path.name)
        return
    else:
        is_one = head[BOOT_AT : BOOT_AT + 2] == BOOT_MARK
    if not is_one:
        what = "a live system" if suffix == LIVE else "a disk that boots"
        raise BadInputError(f"{path.name} is not what its name says: nothing in it tells of {what}")
