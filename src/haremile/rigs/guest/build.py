"""Builds the tiny real systems from Debian's kernel and busybox packages.

The packages are downloaded and extracted, never installed. This is part of set-up: nothing is
fetched when a study runs.
"""

import gzip
import json
import lzma
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from haremile.errors import MissingHereError

SYSTEMS = Path(__file__).with_name("systems")
NAMES = {
    "osterfell-base": "base",
    "osterfell-server": "server",
    "osterfell-python": "python",
}
"""Systems, each with the folder of its own files; the third holds a Python for the probe."""

PYTHON = f"python{sys.version_info.major}.{sys.version_info.minor}"
"""That of the host's own packages, with which everything here runs."""

PYTHON_PACKAGES = (
    f"{PYTHON}-minimal",
    f"lib{PYTHON}-minimal",
    f"lib{PYTHON}-stdlib",
    "libc6",
    "zlib1g",
    "libexpat1",
)
UNUSED = (
    "share",
    "sbin",
    "lib/x86_64-linux-gnu/gconv",
    *(
        f"lib/{PYTHON}/{part}"
        for part in (
            "test",
            "pydoc_data",
            "lib2to3",
            "asyncio",
            "unittest",
            "xml",
            "email",
            "multiprocessing",
            "idlelib",
            "distutils",
        )
    ),
)
MODULES = (
    "drivers/virtio/virtio_ring",
    "drivers/virtio/virtio",
    "drivers/virtio/virtio_pci_legacy_dev",
    "drivers/virtio/virtio_pci_modern_dev",
    "drivers/virtio/virtio_pci",
    "drivers/char/virtio_console",
)
FOLDERS = ("bin", "sbin", "dev", "proc", "sys", "etc", "run", "tmp", "var/log", "lib/modules")

Say = Callable[[str], None]


@dataclass(frozen=True)
class GuestImages:
    """Where the built systems lie."""

    root: Path

    @property
    def kernel(self) -> Path:
        """The kernel image that both systems boot."""
        return self.root / "vmlinuz"

    def initrd(self, name: str) -> Path:
        """The packed file tree of one system."""
        return self.root / f"{name}.cpio.gz"

    @property
    def are_built(self) -> bool:
        """Whether every piece is there, made from the present sources."""
        pieces = [self.kernel, *(self.initrd(name) for name in NAMES)]
        if not all(piece.exists() for piece in pieces):
            return False
        stamp = self.root / "built-from.json"
        return stamp.exists() and json.loads(stamp.read_text()) == _sources()


def _sources() -> dict[str, str]:
    files = sorted(path for path in SYSTEMS.rglob("*") if path.is_file())
    return {str(path.relative_to(SYSTEMS)): path.read_text() for path in files}


def build_guests(images: GuestImages, say: Say) -> None:
    """Download the packages, then pack both systems; some seconds.

    Raises
    ------
    MissingHereError
        If a tool is missing or the packages cannot be had.
    """
    for tool in ("apt-get", "dpkg-deb", "cpio"):
        if shutil.which(tool) is None:
            raise MissingHereError(f"{tool} is needed to build the guests and is not here")
    images.root.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="haremile-build-") as name:
        work = Path(name)
        say("fetching Debian's kernel, busybox and Python packages for the tiny systems")
        kernelpackage = newest_kernel()
        for package in (kernelpackage, "busybox-static", *PYTHON_PACKAGES):
            extract(package, work)
        kernel = next((work / kernelpackage / "boot").glob("vmlinuz-*"))
        shutil.copyfile(kernel, images.kernel)
        for system, folder in NAMES.items():
            say(f"packing {system}")
            tree = _tree(work, kernelpackage, system, folder)
            pack(tree, images.initrd(system))
    (images.root / "built-from.json").write_text(json.dumps(_sources()))


def run_tool(command: list[str], cwd: Path | None = None) -> str:
    """What a command prints; raises MissingHereError where it fails."""
    done = subprocess.run(command, cwd=cwd, capture_output=True, text=True, check=False)
    if done.returncode:
        raise MissingHereError(
            f"{' '.join(command)} failed: {done.stderr.strip()[-400:]}\n"
            "If the package lists are old or empty, run: apt-get update"
        )
    return done.stdout


def newest_kernel(of: str = "linux-image-cloud-amd64") -> str:
    """The package that a kernel's name stands for now."""
    text = run_tool(["apt-cache", "depends", of])
    match = re.search(r"Depends: (linux-image-\S+)", text)
    if match is None:
        raise MissingHereError(f"the package lists name no {of}; run: apt-get update")
    return match[1]


def extract(package: str, work: Path) -> None:
    """Download a package and lay its files out below its name; nothing is installed."""
    folder = work / package
    folder.mkdir()
    run_tool(["apt-get", "download", "-qq", package], cwd=folder)
    archive = next(folder.glob("*.deb"))
    run_tool(["dpkg-deb", "-x", str(archive), str(folder)])


def _tree(work: Path, kernelpackage: str, system: str, folder: str) -> Path:
    tree = work / f"tree-{system}"
    for name in FOLDERS:
        (tree / name).mkdir(parents=True)
    busybox = next((work / "busybox-static").glob("**/bin/busybox"))
    shutil.copy(busybox, tree / "bin/busybox")
    for applet in run_tool([str(busybox), "--list"]).split():
        link = tree / "bin" / applet
        if not link.exists():
            link.symlink_to("busybox")
    _add_modules(work / kernelpackage, tree / "lib/modules")
    for part in ("common", folder):
        shutil.copytree(SYSTEMS / part, tree, dirs_exist_ok=True)
    (tree / "init").chmod(0o755)
    if folder == "server":
        _write_catalogue(tree / "usr/share/catalogue")
    if folder == "python":
        _add_python(work, tree)
    return tree


def _add_modules(package: Path, folder: Path) -> None:
    """What the small systems need of a kernel's modules, which may lie there compressed."""
    found = [*package.glob("lib/modules/*/kernel"), *package.glob("usr/lib/modules/*/kernel")]
    for module in MODULES:
        source = found[0] / f"{module}.ko"
        packed = source.with_suffix(".ko.xz")
        if source.exists():  # some kernels have a few of them built in
            shutil.copy(source, folder)
        elif packed.exists():
            (folder / source.name).write_bytes(lzma.decompress(packed.read_bytes()))


def _add_python(work: Path, tree: Path) -> None:
    """The interpreter with its standard library, as the packages lay it out."""
    for package in PYTHON_PACKAGES:
        shutil.copytree(work / package, tree, symlinks=True, dirs_exist_ok=True)
    for folder in UNUSED:
        shutil.rmtree(tree / "usr" / folder, ignore_errors=True)
    for library in (tree / "usr/lib" / PYTHON / "lib-dynload").iterdir():
        library.unlink()
    (tree / "bin/python3").symlink_to(f"/usr/bin/{PYTHON}")


def _write_catalogue(folder: Path) -> None:
    folder.mkdir(parents=True)
    generator = random.Random("seed catalogue")
    lists = [generator.randbytes(48 * 1024).hex() for _ in range(24)]
    for number, text in enumerate(lists, start=1):
        (folder / f"list-{number:02}.txt").write_text(text)
    (folder / "index.gz").write_bytes(gzip.compress("\n".join(lists).encode(), mtime=0))


def pack(tree: Path, target: Path) -> None:
    """Pack a file tree for the kernel; the same bytes for the same tree."""
    names = "\n".join(str(path.relative_to(tree)) for path in sorted(tree.rglob("*")))
    packed = subprocess.run(
        ["cpio", "--quiet", "-o", "-H", "newc", "-R", "0:0"],
        cwd=tree,
        input=names.encode(),
        capture_output=True,
        check=True,
    )
    fresh = target.with_suffix(".new")
    fresh.write_bytes(gzip.compress(packed.stdout, compresslevel=6, mtime=0))
    fresh.replace(target)
