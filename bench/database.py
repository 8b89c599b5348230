"""A database of its own for benchmarks of the studio."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable

__all__ = ["with_database"]


def with_database(measure: Callable[[], bool]) -> bool:
    """Run ``measure`` with Django set up on an empty database and store, both of which go away after it."""
    from ground.postgres import ensure_server

    os.environ.setdefault("FAIR_TEXEL_DATABASE", ensure_server())
    os.environ.setdefault("FAIR_TEXEL_HOME", tempfile.mkdtemp(prefix="fair-texel-bench-"))
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    import django

    django.setup()
    from django.test.utils import setup_databases, setup_test_environment, teardown_databases, teardown_test_environment

    setup_test_environment()
    kept = setup_databases(verbosity=0, interactive=False)
    try:
        return measure()
    finally:
        teardown_databases(kept, verbosity=0)
        teardown_test_environment()
