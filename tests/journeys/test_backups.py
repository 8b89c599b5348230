"""A studio backed up, restored onto an empty machine, and examined: missing, damaged and orphaned files are told."""

import json
import os
import shutil
import subprocess
import sys
from urllib.parse import urlsplit

import psycopg
import pytest

from ground.places import CHECKOUT
from remote.client import Studio
from tests.journeys.test_workers import Script
from tests.pictures import simple_set


@pytest.fixture(scope="module")
def delivered(live, tmp_path_factory):
    """A project with a delivery, by a script; its name."""
    folder = tmp_path_factory.mktemp("in")
    simple_set(folder, "deck", seed=7102)  # no other project has these files
    studio = Studio(live.address, Script(live).token, patience=600)
    slug = studio.call("POST", "/projects", {"name": "Kept safe"})["slug"]
    studio.take_in(slug, folder)
    studio.wait_for_jobs(slug)
    assert studio.deliver(slug)["state"] == "done"
    return slug


@pytest.fixture(scope="module")
def backup(live, delivered, tmp_path_factory):
    """A backup of the studio with the delivery."""
    folder = tmp_path_factory.mktemp("kept") / "backup"
    live.manage("backup", str(folder))
    return folder


@pytest.fixture
def elsewhere(live, tmp_path):
    """An empty machine: a database without a table, and empty folders. Runs commands of the server there."""
    base, name = os.environ["FAIR_TEXEL_DATABASE"], f"fair_texel_other_{os.getpid()}"
    with psycopg.connect(base, autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        connection.execute(f"CREATE DATABASE {name}")
    home = tmp_path / "home"
    home.mkdir()
    database = urlsplit(base)._replace(path=f"/{name}").geturl()
    env = {**live.env, "FAIR_TEXEL_DATABASE": database, "FAIR_TEXEL_HOME": str(home)}

    def manage(*words):
        command = [sys.executable, "manage.py", *words]
        return subprocess.run(command, cwd=CHECKOUT, env=env, capture_output=True, text=True, check=False)

    yield home, manage
    with psycopg.connect(base, autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


def test_a_backup_makes_an_empty_machine_the_same_studio(live, delivered, backup, elsewhere):
    home, manage = elsewhere
    second = live.manage("backup", str(backup))
    assert "0 stored files added" in second, "what is there is not copied again"
    done = manage("restore", str(backup))
    assert done.returncode == 0, done.stderr
    asked = f"TextureSet.objects.filter(project__slug='{delivered}').count()"
    count = f"from studio.sets.models import TextureSet; print({asked})"
    assert manage("shell", "-v", "0", "-c", count).stdout.strip() == "1"
    told = manage("doctor")
    assert (told.returncode, "is there and whole" in told.stdout) == (0, True), told.stdout
    assert (home / "secret").read_text() == (live.home / "secret").read_text()
    again = manage("restore", str(backup))
    assert (again.returncode, "not empty" in again.stderr) == (1, True)


def test_what_is_no_backup_or_of_a_newer_version_is_refused(backup, elsewhere, tmp_path):
    _, manage = elsewhere
    assert "holds no backup" in manage("restore", str(tmp_path)).stderr
    about = json.loads((backup / "backup.json").read_text())
    about["migrations"].append("sets.9999_later")
    newer = tmp_path / "newer"
    shutil.copytree(backup, newer)
    (newer / "backup.json").write_text(json.dumps(about))
    assert "newer version" in manage("restore", str(newer)).stderr


def test_the_doctor_tells_what_is_missing_damaged_and_orphaned(live, delivered, backup, elsewhere):
    home, manage = elsewhere
    assert manage("restore", str(backup)).returncode == 0
    asked = f"IntakeFile.objects.filter(intake__project__slug='{delivered}').values_list('source', flat=True)"
    told = live.manage("shell", "-v", "0", "-c", f"from studio.intake.models import IntakeFile; print(*{asked})")
    missing, damaged = (home / "store/source" / name[:2] / name for name in told.split()[:2])
    missing.unlink()
    damaged.write_bytes(b"not what it was")
    orphan = home / "store/source/ab" / ("ab" + "0" * 62)
    orphan.parent.mkdir(exist_ok=True)
    orphan.write_bytes(b"nobody's")
    derived = home / "store/picture/cd" / ("cd" + "0" * 62)
    derived.parent.mkdir(parents=True)
    derived.write_bytes(b"\x00texel-kept\x01" + b"0" * 40)
    written = next(path for path in (home / "deliveries").rglob("*.png"))
    written.unlink()
    told = manage("doctor", "--mend")
    lines = {line.split(":")[0] for line in told.stdout.splitlines()}
    name = damaged.relative_to(home / "store").as_posix()
    assert told.returncode == 1
    assert f"damaged  {name}" in lines
    assert f"missing  {missing.relative_to(home / 'store').as_posix()}" in lines
    assert any(line.startswith("orphaned source/ab/") for line in lines)
    assert any(line.startswith("missing") and line.endswith(".png") for line in lines), "of the delivery"
    assert "mended; it is made again" in told.stdout
    assert not derived.exists()
    assert f"{delivered}: " in told.stdout, "what has to be uploaded again is named"
