"""Take up again what died with its worker."""

from __future__ import annotations

import logging

from asgiref.sync import async_to_sync
from procrastinate.contrib.django import app

__all__ = ["HEARTBEAT_SECONDS", "STALLED_SECONDS", "rescue_stalled"]

HEARTBEAT_SECONDS = 2.0
# Five missed heartbeats: the worker is gone, not merely busy.
STALLED_SECONDS = 10.0
_log = logging.getLogger(__name__)


def rescue_stalled(seconds: float = STALLED_SECONDS) -> int:
    """Queue again every job whose worker has been silent for ``seconds``. Returns how many."""
    return async_to_sync(_rescue)(seconds)


async def _rescue(seconds: float) -> int:
    manager = app.job_manager
    count = 0
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=seconds):
        await manager.retry_job(job)
        _log.warning("job %s is taken up again: its worker died", job.task_kwargs.get("job_id"))
        count += 1
    await manager.prune_stalled_workers(seconds_since_heartbeat=seconds * 6)
    return count
