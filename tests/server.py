"""Starts the project's PostgreSQL before Django reads its settings; loaded with ``-p``, since conftest is too late."""

import os
import tempfile

if "FAIR_TEXEL_DATABASE" not in os.environ:
    from ground.postgres import ensure_server

    os.environ["FAIR_TEXEL_DATABASE"] = ensure_server()
os.environ.setdefault("FAIR_TEXEL_HOME", tempfile.mkdtemp(prefix="fair-texel-test-"))
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
