"""What webhooks are told of: deliveries and judgements that ended, newer versions of masters in use."""

from __future__ import annotations

from functools import partial
from typing import Any

from django.db.models.signals import post_save

from studio.changes.recorded import record_rows
from studio.jobs.models import Job
from studio.jobs.queue import when_ended
from studio.materials.models import Adoption, MasterVersion
from studio.overview import waits_in
from studio.webhooks.models import Webhook
from studio.webhooks.sending import tell

__all__ = ["tell_of_job", "tell_of_version"]

record_rows(
    Webhook, lambda row: f"Add the webhook {row.name}", lambda row: f"Remove the webhook {row.name}"
)  # fmt: skip


@when_ended
def tell_of_job(job: Job) -> None:
    if job.kind == "deliver":
        tell(job.project, "delivery", partial(_of_delivery, job))
    elif job.kind == "judge" and job.state != Job.State.CANCELLED:
        tell(job.project, "findings", partial(_of_findings, job))


def _of_delivery(job: Job) -> dict[str, object]:
    delivery = job.delivery
    return {
        "number": delivery.number, "target": delivery.target.get("name", ""), "sets": len(delivery.set_ids),
        "state": job.state, "message": job.message,
    }  # fmt: skip


def _of_findings(job: Job) -> dict[str, object]:
    waits = waits_in([job.project_id])[job.project_id]
    return {
        "state": job.state, "sets_with_errors": waits["errors"], "sets_with_warnings": waits["warnings"],
        "sets_not_checked": waits["unchecked"],
    }  # fmt: skip


def tell_of_version(sender: Any, instance: MasterVersion, created: bool, **rest: Any) -> None:
    """Projects that use a master hear of its newer version."""
    if created:
        for one in Adoption.objects.filter(master=instance.master_id).select_related("project", "version"):
            tell(one.project, "update", partial(_of_version, instance, one))


def _of_version(newest: MasterVersion, one: Adoption) -> dict[str, object]:
    return {
        "master": newest.master.name, "newest": newest.number, "in_use": one.version.number, "note": newest.note,
    }  # fmt: skip


post_save.connect(tell_of_version, sender=MasterVersion, dispatch_uid="webhooks of versions")
