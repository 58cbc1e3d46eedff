"""Builds a real bare and a real small desktop system from Debian's packages.

Their identity is that of the sample world. It takes root, a few minutes and the package mirror that
this machine uses; nothing is fetched when a study runs.
"""

import json
import os
import re
import shutil
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path

from haremile.errors import BadInputError, MissingHereError
from haremile.rigs.guest.build import Say, extract, newest_kernel, pack, run_tool

FILES = Path(__file__).with_name("debian")
SIZE_MIB = 1536
UUID_OF_ROOT = "11111111-2222-4333-8444-555555555555"
KERNEL = "linux-image-amd64"
TOOLS = {"mmdebstrap": "mmdebstrap", "mke2fs": "e2fsprogs", "cpio": "cpio", "apt-get": "apt"}
COMMON = ("systemd-sysv", "udev", "dbus", "kmod", "python3", "util-linux", "procps")
INITRD_MODULES = (
    "virtio_ring",
    "virtio",
    "virtio_pci_legacy_dev",
    "virtio_pci_modern_dev",
    "virtio_pci",
    "virtio_blk",
    "crc16",
    "mbcache",
    "crc32c_generic",
    "jbd2",
    "ext4",
)
MODULES = re.compile(
    r"^(virtio.*|bochs|drm.*|ttm|evdev|psmouse|button|net_failover|failover|mousedev|atkbd|i8042|"
    r"cec|rng-core|ext4|jbd2|mbcache|crc16|crc32c.*|i2c-algo-bit)\.ko$"
)


@dataclass(frozen=True)
class DebianRecipe:
    """What a system is made of, and what it says of itself."""

    name: str
    system: str
    packages: tuple[str, ...]
    is_desktop: bool
    memory_mib: int


X_SESSION = (
    "xserver-xorg-core",
    "xserver-xorg-input-libinput",
    "xinit",
    "xauth",
    "x11-xserver-utils",
    "icewm",
    "xterm",
    "xfonts-base",
    "fonts-dejavu-core",
    "libpam-systemd",
)

RECIPES = {
    "bare": DebianRecipe("osterfell-bare", "Osterfell Bare", (), False, 512),
    "desktop": DebianRecipe(
        "osterfell-mossgate",
        "Osterfell Mossgate",
        X_SESSION,
        True,
        768,
    ),
    "browser": DebianRecipe(
        "osterfell-mossgate-web",
        "Osterfell Mossgate Web",
        (*X_SESSION, "surf"),
        True,
        1024,
    ),
}


@dataclass(frozen=True)
class DebianImage:
    """Where the pieces of a built system lie."""

    root: Path
    recipe: DebianRecipe

    @property
    def disk(self) -> Path:
        """The disk: a file system without partitions."""
        return self.root / f"{self.recipe.name}.raw"

    @property
    def kernel(self) -> Path:
        """Its kernel."""
        return self.root / "vmlinuz-full"

    @property
    def initrd(self) -> Path:
        """What finds the disk."""
        return self.root / "full.cpio.gz"

    @property
    def is_built(self) -> bool:
        """Whether every piece is there, made from the present sources."""
        stamp = self.root / f"{self.recipe.name}.built-from.json"
        pieces = (self.disk, self.kernel, self.initrd, stamp)
        return all(p.exists() for p in pieces) and json.loads(stamp.read_text()) == _sources()


def debian_image(root: Path, kind: str) -> DebianImage:
    """The image of a kind. Raises BadInputError."""
    if kind not in RECIPES:
        raise BadInputError(f"unknown system: {kind}; expected one of {', '.join(RECIPES)}")
    return DebianImage(root, RECIPES[kind])


def _sources() -> dict[str, str]:
    files = sorted(path for path in FILES.rglob("*") if path.is_file())
    found = {str(path.relative_to(FILES)): path.read_text() for path in files}
    return {**found, "recipes": repr(RECIPES)}


def build_debian(image: DebianImage, say: Say) -> None:
    """Build a system: one to four minutes.

    Raises
    ------
    MissingHereError
        Without root, or where a tool is missing or the packages cannot be had.
    """
    if os.geteuid() != 0:
        raise MissingHereError("these systems are built as root: file owners must be kept")
    lacking = sorted({package for tool, package in TOOLS.items() if shutil.which(tool) is None})
    if lacking:
        raise MissingHereError(f"this needs packages: apt-get install {' '.join(lacking)}")
    image.root.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="haremile-build-", dir=image.root) as name:
        work = Path(name)
        say("fetching Debian's kernel and busybox")
        kernel_package = newest_kernel(KERNEL)
        for package in (kernel_package, "busybox-static"):
            extract(package, work)
        modules = next((work / kernel_package / "lib/modules").iterdir())
        shutil.copyfile(next((work / kernel_package / "boot").glob("vmlinuz-*")), image.kernel)
        _pack_initrd(work, modules, image.initrd)
        tree = work / "tree"
        say(f"installing {image.recipe.system}'s packages (a minute or two)")
        _install_packages(image.recipe, tree)
        say("giving it its identity")
        _copy_modules(modules, tree)
        _set_up(image.recipe, tree)
        say("packing its disk")
        _pack_disk(tree, image.disk)
    stamp = image.root / f"{image.recipe.name}.built-from.json"
    stamp.write_text(json.dumps(_sources()))


def _mirror() -> str:
    """The mirror that this machine's package lists come from."""
    text = run_tool(["apt-get", "indextargets", "--format", "$(SITE)"])
    sites = [line for line in text.splitlines() if line]
    if not sites:
        raise MissingHereError("the package lists name no mirror; run: apt-get update")
    return sites[0]


def _install_packages(recipe: DebianRecipe, tree: Path) -> None:
    suite = run_tool(["sh", "-c", ". /etc/os-release && echo $VERSION_CODENAME"]).strip()
    run_tool(
        [
            "mmdebstrap",
            "--mode=root",
            "--variant=minbase",
            "--quiet",
            '--aptopt=Acquire::Languages "none"',
            "--dpkgopt=path-exclude=/usr/share/man/*",
            "--dpkgopt=path-exclude=/usr/share/doc/*",
            "--dpkgopt=path-exclude=/usr/share/locale/*",
            f"--include={','.join((*COMMON, *recipe.packages))}",
            suite,
            str(tree),
            _mirror(),
        ]
    )


def _copy_modules(modules: Path, tree: Path) -> None:
    target = tree / "lib/modules" / modules.name
    for path in modules.rglob("*"):
        if MODULES.match(path.name) or path.name.startswith(("modules.builtin", "modules.order")):
            kept = target / path.relative_to(modules)
            kept.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy(path, kept)
    run_tool(["chroot", str(tree), "depmod", modules.name])


def _set_up(recipe: DebianRecipe, tree: Path) -> None:
    for part in ("common", *(("desktop",) if recipe.is_desktop else ())):
        shutil.copytree(FILES / part, tree, dirs_exist_ok=True)
    (tree / "usr/local/sbin/haremile-agent").chmod(0o755)
    edition = recipe.system.partition(" ")[2]
    stated = {
        "NAME": "Osterfell",
        "ID": "osterfell",
        "PRETTY_NAME": recipe.system,
        "VARIANT": edition,
    }
    text = "".join(f'{key}="{value}"\n' for key, value in stated.items())
    (tree / "etc/os-release").unlink()  # a link to the original, which goes too
    (tree / "usr/lib/os-release").write_text(text)
    (tree / "etc/os-release").symlink_to("../usr/lib/os-release")
    for name in ("etc/issue", "etc/issue.net", "etc/debian_version", "etc/motd"):
        (tree / name).write_text(f"{recipe.system}\n")
    (tree / "etc/fstab").write_text("/dev/vda / ext4 defaults 0 0\n")
    (tree / "etc/hostname").write_text(f"{recipe.name}\n")
    (tree / "etc/hosts").write_text(f"127.0.0.1 localhost {recipe.name}\n")
    (tree / "etc/machine-id").write_text("8a5c1e9d0f3b4c6d8a5c1e9d0f3b4c6d\n")
    for unit in ("haremile-agent.service", "systemd-networkd.service"):
        run_tool(["chroot", str(tree), "systemctl", "enable", unit])
    if recipe.is_desktop:
        run_tool(
            ["chroot", str(tree), "useradd", "-M", "-G", "video,input", "-s", "/bin/bash", "tester"]
        )
        (tree / "home/tester/.icewm/startup").chmod(0o755)
        run_tool(["chroot", str(tree), "chown", "-R", "tester:", "/home/tester"])
    shutil.rmtree(tree / "var/lib/apt/lists", ignore_errors=True)
    for cache in (tree / "var/cache/apt").glob("*.bin"):
        cache.unlink()
    (tree / "etc/apt/sources.list").unlink(missing_ok=True)


def _pack_initrd(work: Path, modules: Path, target: Path) -> None:
    tree = work / "initrd"
    for name in ("bin", "dev", "proc", "root", "lib/modules"):
        (tree / name).mkdir(parents=True)
    busybox = next((work / "busybox-static").glob("**/bin/busybox"))
    shutil.copy(busybox, tree / "bin/busybox")
    for applet in ("sh", "mount", "umount", "insmod", "sleep", "switch_root"):
        (tree / "bin" / applet).symlink_to("busybox")
    for name in INITRD_MODULES:
        for source in modules.rglob(f"{name}.ko"):
            shutil.copy(source, tree / "lib/modules")
    shutil.copy(FILES / "initrd-init", tree / "init")
    (tree / "init").chmod(0o755)
    pack(tree, target)


def _pack_disk(tree: Path, disk: Path) -> None:
    fresh = disk.with_suffix(".new")
    fresh.unlink(missing_ok=True)
    with fresh.open("wb") as file:
        file.truncate(SIZE_MIB * 2**20)
    done = subprocess.run(
        [
            "mke2fs",
            "-q",
            "-F",
            "-t",
            "ext4",
            "-m",
            "0",
            "-L",
            "osterfell",
            "-U",
            UUID_OF_ROOT,
            "-E",
            f"hash_seed={UUID_OF_ROOT},lazy_itable_init=0,lazy_journal_init=0,root_owner=0:0",
            "-d",
            str(tree),
            str(fresh),
        ],
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise MissingHereError(f"its disk could not be made: {done.stderr.strip()}")
    fresh.replace(disk)
