"""Where things stand: the checkout, and the folder that holds its data, which is outside the checkout."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

__all__ = ["CHECKOUT", "VENV_PYTHON", "data_home", "folder"]

CHECKOUT = Path(__file__).resolve().parent.parent
VENV_PYTHON = CHECKOUT / ".venv" / "bin" / "python"


def data_home() -> Path:
    """The data folder of this checkout: FAIR_TEXEL_HOME, or one named after the checkout's path.

    As root it lies below /var/lib, because the database server's own user must be able to reach it; else below the
    user's state folder.
    """
    given = os.environ.get("FAIR_TEXEL_HOME")
    if given:
        return Path(given).absolute()
    name = CHECKOUT.name.replace(" ", "-") + "-" + hashlib.sha256(str(CHECKOUT).encode()).hexdigest()[:8]
    if os.geteuid() == 0:
        return Path("/var/lib/fair-texel") / name
    state = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(state) / "fair-texel" / name


def folder(*parts: str, mode: int = 0o755) -> Path:
    """A folder below the data folder, made when it is not there."""
    path = data_home().joinpath(*parts)
    path.mkdir(parents=True, exist_ok=True, mode=mode)
    return path
