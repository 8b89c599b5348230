"""The database being away: no fault of a job's, which is taken up again."""

from __future__ import annotations

from django.db import InterfaceError, OperationalError
from psycopg_pool import PoolTimeout

__all__ = ["AWAY", "EXIT_AWAY"]

# What is raised when the database does not answer, or has closed the connection.
AWAY = (OperationalError, InterfaceError, PoolTimeout)
# What a job's process ends with when it could not write down how the job went (EX_TEMPFAIL of sysexits.h).
EXIT_AWAY = 75
