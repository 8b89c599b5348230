"""Renew the lock files of both languages; neither may name a host."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

CHECKOUT = Path(__file__).resolve().parent.parent


def lock_python(name: str) -> None:
    """requirements NAME.in to NAME.lock, with hashes."""
    subprocess.run(
        [
            str(Path(sys.executable).parent / "uv"), "pip", "compile", "-q", "--generate-hashes", "--no-header",
            "--no-annotate", "--no-emit-index-url", f"{name}.in", "-o", f"{name}.lock",
        ],
        cwd=CHECKOUT,
        check=True,
    )  # fmt: skip


def strip_hosts(path: Path) -> None:
    """Take addresses (download, funding) out of an npm lock file; npm works without them."""
    document = json.loads(path.read_text())
    for package in document["packages"].values():
        for key in ("resolved", "funding"):
            package.pop(key, None)
    path.write_text(json.dumps(document, indent=2) + "\n")


if __name__ == "__main__":
    lock_python("requirements")
    lock_python("requirements-dev")
    subprocess.run(["npm", "install", "--package-lock-only"], cwd=CHECKOUT / "web", check=True)
    strip_hosts(CHECKOUT / "web" / "package-lock.json")
