"""Which files of a folder changed, as git tells: for checks of what a commit brings."""

from __future__ import annotations

import subprocess
from pathlib import Path

from texel.errors import BadDocument

__all__ = ["changed_files", "install_hook"]

_PATIENCE_SECONDS = 60
_HOOK = """#!/bin/sh
# Checks the textures that a commit brings; a commit with errors is refused. Written by texel hook.
exec {command} check "{folder}" --changed staged
"""


def _git(folder: Path, *words: str) -> bytes:
    """What git answers. Raises BadDocument in its own words."""
    try:
        done = subprocess.run(
            ["git", "-C", str(folder), *words], capture_output=True, timeout=_PATIENCE_SECONDS, check=False
        )
    except FileNotFoundError:
        raise BadDocument("git is not installed; it tells which files changed") from None
    except subprocess.TimeoutExpired:
        raise BadDocument("git did not answer for {seconds} seconds", seconds=_PATIENCE_SECONDS) from None
    if done.returncode:
        said = done.stderr.decode(errors="replace").strip().splitlines()
        raise BadDocument("git: {words}", words=said[-1] if said else "it failed")
    return done.stdout


def changed_files(folder: Path, since: str) -> set[str]:
    """Files below a folder that changed, relative to it, with "/"; those that were taken away too.

    since: "staged" for what the next commit brings; else a commit or branch, whose state is compared with what lies
    there now, files that git does not know yet among it. Raises BadDocument where the folder is in no repository, and
    for a commit that there is not.
    """
    # Names end with NUL: they may hold line breaks. What begins with - would be taken for an option.
    if since == "staged":
        told = _git(folder, "diff", "--cached", "--name-only", "-z", "--relative", "--")
    else:
        base = _git(folder, "rev-parse", "--verify", "--end-of-options", f"{since}^{{commit}}").decode().strip()
        told = _git(folder, "diff", "--name-only", "-z", "--relative", base, "--")
        told += _git(folder, "ls-files", "--others", "--exclude-standard", "-z")
    return {name.decode(errors="surrogateescape") for name in told.split(b"\0") if name}


def install_hook(folder: Path, command: str) -> Path:
    """Have git check a folder's textures before each commit; returns the hook's file. command: that runs this program.

    Raises BadDocument where there is a hook that somebody else wrote.
    """
    where = _git(folder, "rev-parse", "--git-path", "hooks/pre-commit").decode().strip()
    path = Path(where) if Path(where).is_absolute() else folder / where
    if path.exists() and "Written by texel hook" not in path.read_text(errors="replace"):
        raise BadDocument("there is a hook {path} already; add the check to it by hand", path=path)
    inside = _git(folder, "rev-parse", "--show-prefix").decode().strip().rstrip("/") or "."
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(_HOOK.format(command=command, folder=inside.replace('"', '\\"')))
    path.chmod(0o755)
    return path
