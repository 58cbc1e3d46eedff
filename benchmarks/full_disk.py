"""A small disk (tmpfs) is filled under a bench at work: what every page says before it is full,
when it is, and once there is room again; whether anything that was kept is lost. Needs root."""

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx

from haremile.processes import child_command, child_environment

SIZE_MIB, NEARLY_MIB, FULL_MIB = 1400, 400, 0
ROWS = 3000


def sheet(number: int) -> bytes:
    rows = "".join(f"Varrow {number},Bench,boot.total,{20 + n / 1000},s\n" for n in range(ROWS))
    return ("system,machine,metric,value,unit\n" + rows).encode()


def bring(client: httpx.Client, number: int) -> httpx.Response:
    files = [("files", ("sheet.csv", sheet(number)))]
    return client.post("/api/studies/import", data={"title": f"Study {number}"}, files=files)


def said(client: httpx.Client) -> str:
    answer = client.get("/api/health")
    word = answer.json().get("disk") if answer.status_code == 200 else answer.text
    return f"{answer.status_code}, {word or 'nothing is said of the disk'}"


def fill(place: Path, leave_mib: int) -> None:
    """Take all of the disk but so much."""
    free = shutil.disk_usage(place).free // 2**20
    block = b"x" * 2**20
    with (place / "filler").open("ab", buffering=0) as file:
        try:
            for _ in range(max(free - leave_mib, 0)):
                file.write(block)
        except OSError as error:
            print(f"  (the disk takes no more: {error.strerror})")


def count(client: httpx.Client) -> int:
    return len(client.get("/api/studies").json())


def main() -> None:
    if os.geteuid():
        sys.exit("mounting a disk needs root")
    place = Path(tempfile.mkdtemp(prefix="hm-disk-", dir="/tmp"))
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={SIZE_MIB}m", "none", place], check=True)
    place.chmod(0o755)
    environment = {**child_environment(), "HAREMILE_DATA": str(place / "data")}
    made = subprocess.run(
        [sys.executable, "-m", "haremile", "key", "add", "Ida", "--role", "own"],
        env=environment,
        capture_output=True,
        text=True,
        check=True,
    )
    key = made.stdout.split()[-1]
    command = child_command([sys.executable, "-m", "haremile", "serve"])
    server = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
    try:
        address = _address(place / "data" / "serving.json")
        with httpx.Client(
            base_url=address, headers={"Authorization": f"Bearer {key}"}, timeout=60
        ) as client:
            _shown(client, place)
    finally:
        server.terminate()
        server.wait(60)
        subprocess.run(["umount", place], check=True)
        place.rmdir()


def _shown(client: httpx.Client, place: Path) -> None:
    print("room enough:", said(client))
    print("  a study is brought in:", bring(client, 1).status_code)
    fill(place, NEARLY_MIB)
    print("nearly full:", said(client))
    print("  a study is brought in:", bring(client, 2).status_code)
    fill(place, FULL_MIB)
    print("full:", said(client))
    answer = bring(client, 3)
    print("  a study is brought in:", answer.status_code, answer.text[:160])
    (place / "filler").unlink()
    deadline = time.monotonic() + 120
    while time.monotonic() < deadline and client.get("/healthz").status_code != 200:
        time.sleep(0.5)
    print("room again:", said(client))
    print("  a study is brought in:", bring(client, 4).status_code)
    print("studies that are there:", count(client), "of those that were taken")


def _address(file: Path) -> str:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        try:
            return str(json.loads(file.read_text())["address"])
        except (OSError, ValueError):
            time.sleep(0.1)
    raise TimeoutError("the server did not start")


if __name__ == "__main__":
    main()
