"""Set up what a fresh machine lacks: system packages, the Python environment, the page. Each step says what it does."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable, Sequence
from pathlib import Path

from ground.places import CHECKOUT, VENV_PYTHON

__all__ = ["SetupFailed", "build_page", "ensure_node_packages", "ensure_python", "ensure_system", "run_step"]

_WEB = CHECKOUT / "web"
_CLUSTER_CONFIG = Path("/etc/postgresql-common/createcluster.conf")


class SetupFailed(Exception):
    """A step that failed; the message says which, and what to do."""


def run_step(title: str, command: Sequence[str], hint: str, cwd: Path = CHECKOUT, **env: str) -> None:
    """Run one step quietly; when it fails show the end of its output and ``hint``."""
    print(f"ft: {title} ...", flush=True)
    done = subprocess.run(
        list(command), cwd=cwd, env={**os.environ, **env}, stdin=subprocess.DEVNULL, capture_output=True, text=True
    )
    if done.returncode != 0:
        tail = "\n".join((done.stdout + done.stderr).strip().splitlines()[-15:])
        raise SetupFailed(f"{title} failed (exit {done.returncode}):\n{tail}\n\nWhat to do: {hint}")


def _as_root(command: Sequence[str]) -> list[str]:
    if os.geteuid() == 0:
        return list(command)
    if shutil.which("sudo") is None:
        raise SetupFailed(f"this step needs root and there is no sudo. Run as root: {' '.join(command)}")
    return ["sudo", "env", "DEBIAN_FRONTEND=noninteractive", *command]


def _postgres_there() -> bool:
    return any(Path("/usr/lib/postgresql").glob("*/bin/initdb"))


def ensure_system(tests: bool = False) -> None:
    """Debian packages: PostgreSQL; with ``tests`` a browser, a screen in memory with software OpenGL and sample
    models. Nothing is done when they are there."""
    wanted = [] if _postgres_there() else ["postgresql"]
    if tests and shutil.which("chromium") is None:
        wanted.append("chromium")
    if tests and shutil.which("xvfb-run") is None:
        wanted += ["xvfb", "xauth", "libgl1", "libgl1-mesa-dri", "libglx-mesa0"]
    if tests and not Path("/usr/share/assimp/models").is_dir():
        wanted.append("assimp-testmodels")
    if not wanted:
        return
    hint = f"install by hand: apt-get install {' '.join(wanted)}"
    run_step("reading the list of system packages", _as_root(["apt-get", "update", "-q"]), hint)
    if "postgresql" in wanted and not _CLUSTER_CONFIG.exists():
        # Debian would start a server of its own; this application starts one in its own folder.
        script = f"mkdir -p {_CLUSTER_CONFIG.parent} && echo 'create_main_cluster = false' > {_CLUSTER_CONFIG}"
        run_step("keeping Debian from starting a database of its own", _as_root(["sh", "-c", script]), hint)
    install = ["apt-get", "install", "-y", "-q", "--no-install-recommends", *wanted]
    title = f"installing {' and '.join(wanted)}"
    run_step(title, _as_root(install), hint, DEBIAN_FRONTEND="noninteractive")


def _digest(paths: Iterable[Path]) -> str:
    state = hashlib.sha256(sys.version.encode())
    for path in sorted(paths):
        state.update(str(path.relative_to(CHECKOUT)).encode())
        state.update(path.read_bytes())
    return state.hexdigest()


def _fresh(stamp: Path, digest: str) -> bool:
    return stamp.is_file() and stamp.read_text() == digest


def ensure_python(development: bool = False) -> None:
    """The virtual environment with exactly the locked packages; ``development`` adds those of tests and linters."""
    lock = CHECKOUT / ("requirements-dev.lock" if development else "requirements.lock")
    stamp = CHECKOUT / ".venv" / f".installed-{lock.stem}"
    digest = _digest([lock])
    # The packages of the application are a part of those for development.
    if _fresh(stamp, digest) or (not development and _development_covers()):
        return
    if not VENV_PYTHON.exists():
        _make_venv()
    hint = "check that the package index can be reached, then run the same command again"
    install = [str(VENV_PYTHON), "-m", "pip", "install", "-q", "--require-hashes", "-r", str(lock)]
    run_step("installing Python packages", install, hint, PIP_DISABLE_PIP_VERSION_CHECK="1")
    stamp.write_text(digest)


def _development_covers() -> bool:
    lock = CHECKOUT / "requirements-dev.lock"
    return _fresh(CHECKOUT / ".venv" / f".installed-{lock.stem}", _digest([lock]))


def _make_venv() -> None:
    try:
        import ensurepip  # noqa: F401
    except ImportError:
        package = f"python{sys.version_info.major}.{sys.version_info.minor}-venv"
        install = _as_root(["apt-get", "install", "-y", "-q", package])
        run_step("installing Python's venv", install, f"install by hand: apt-get install {package}")
    shutil.rmtree(CHECKOUT / ".venv", ignore_errors=True)
    command = [sys.executable, "-m", "venv", str(CHECKOUT / ".venv")]
    run_step("making the Python environment", command, "check that the checkout can be written to")


def ensure_node_packages() -> None:
    """The page's locked packages."""
    node = shutil.which("node")
    if node is None or shutil.which("npm") is None:
        raise SetupFailed("Node is missing. What to do: install Node 20 or newer with npm, then run the same again")
    major = int(subprocess.run([node, "--version"], capture_output=True, text=True).stdout.strip("v \n").split(".")[0])
    if major < 20:
        raise SetupFailed(f"Node {major} is too old. What to do: install Node 20 or newer, then run the same again")
    stamp = _WEB / "node_modules" / ".installed"
    digest = _digest([_WEB / "package-lock.json"])
    if _fresh(stamp, digest):
        return
    command = ["npm", "ci", "--no-audit", "--no-fund"]
    hint = "check that the package registry can be reached, then run the same command again"
    run_step("installing the page's packages", command, hint, cwd=_WEB)
    stamp.write_text(digest)


def build_page() -> None:
    """The page, built from its sources when they changed."""
    ensure_node_packages()
    sources = [p for p in (_WEB / "src").rglob("*") if p.is_file()]
    sources += [_WEB / name for name in ("index.html", "vite.config.ts", "package-lock.json", "tsconfig.json")]
    stamp = _WEB / "dist" / ".built"
    digest = _digest(sources)
    if _fresh(stamp, digest):
        return
    run_step("building the page", ["npm", "run", "build"], "the messages above come from the page's build", cwd=_WEB)
    compress = [str(VENV_PYTHON), "-m", "whitenoise.compress", "--quiet", "dist"]
    run_step("compressing the page", compress, "the messages above come from the compression", cwd=_WEB)
    stamp.write_text(digest)
