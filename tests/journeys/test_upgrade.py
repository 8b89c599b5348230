"""A database of a former release, with data, brought forward by migrations: nothing that was there is lost, and
everybody may what they might before. tests/data/before-teams.sql.gz is a dump of the release before rights to manage,
the history and comments, of a project with three members, a change, one taken back, a master and two tokens."""

import gzip
import json
import os
import subprocess
import sys
from urllib.parse import urlsplit

import psycopg
import pytest

from ground.places import CHECKOUT

ASKED = """
import json
from django.contrib.auth import get_user_model
from studio.people.models import AccessToken
from studio.projects.models import Change, HistoryLine, Membership
from studio.sets.models import TextureSet
print(json.dumps({
    "rights": dict(Membership.objects.values_list("user__username", "right")),
    "tokens": dict(AccessToken.objects.values_list("name", "right")),
    "keepers": list(get_user_model().objects.filter(groups__name="library keepers").values_list("username", flat=True)),
    "sets": list(TextureSet.objects.values_list("name", flat=True)),
    "changes": [[one.label, one.undone] for one in Change.objects.order_by("pk")],
    "lines": [[one.label, sorted({about.split(":")[0] for about in one.about}), one.change.label]
              for one in HistoryLine.objects.order_by("pk")],
}))
"""


@pytest.fixture
def upgraded(tmp_path):
    """What is in the database after the migrations of this release."""
    base, name = os.environ["FAIR_TEXEL_DATABASE"], f"fair_texel_upgrade_{os.getpid()}"
    database = urlsplit(base)._replace(path=f"/{name}").geturl()
    with psycopg.connect(base, autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        connection.execute(f"CREATE DATABASE {name}")
    dump = gzip.decompress((CHECKOUT / "tests/data/before-teams.sql.gz").read_bytes())
    env = {**os.environ, "FAIR_TEXEL_DATABASE": database, "FAIR_TEXEL_HOME": str(tmp_path)}

    def run(command, data=None):
        done = subprocess.run(command, cwd=CHECKOUT, env=env, input=data, capture_output=True, check=False)
        assert done.returncode == 0, done.stderr.decode()[-2000:]
        return done.stdout

    run(["psql", "-q", "-v", "ON_ERROR_STOP=1", "--dbname", database], dump)
    run([sys.executable, "manage.py", "migrate", "-v", "0"])
    yield json.loads(run([sys.executable, "manage.py", "shell", "-v", "0", "-c", ASKED]))
    with psycopg.connect(base, autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


def test_a_former_release_is_brought_forward_with_its_data(upgraded):
    assert upgraded["rights"] == {"ada": "manage", "bram": "prepare", "cleo": "look"}
    assert upgraded["tokens"] == {"pipeline": "manage", "look only": "look"}
    assert upgraded["keepers"] == ["ada"], "who kept a master keeps the library"
    assert upgraded["sets"] == ["pier"]
    assert [undone for _, undone in upgraded["changes"]] == [False, True]
    named, turned = upgraded["lines"]
    assert (named[0], named[1]) == ("Rename deck to pier", ["sets"])
    assert turned[1] == ["placements", "sets"], "a map's set stands with it"
    assert all(label == change for label, _, change in upgraded["lines"])
