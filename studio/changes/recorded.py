"""What the engine of changes does not make, and the history knows all the same: deliveries, exports, members and the
like. Each app registers its models; a row that is made or taken away is a line, whichever route or job did it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextvars import ContextVar
from typing import Any

from django.core.signals import request_finished
from django.db.models import Model
from django.db.models.signals import post_delete, post_save

from studio.projects.models import HistoryLine, Project

__all__ = ["acting", "record", "record_rows", "recorded_models"]

# Who asks, for rows that do not say who made them; each request sets it.
acting: ContextVar[Any] = ContextVar("acting", default=None)
recorded_models: set[type[Model]] = set()


def _nobody_asks(**rest: Any) -> None:
    acting.set(None)


request_finished.connect(_nobody_asks, dispatch_uid="nobody asks any more")


def record(project: Project | None, by: Any, label: str, about: Iterable[str] = ()) -> None:
    """Add a line. project: None for what all projects share. about: "kind:key" of what it was done to."""
    person = by if getattr(by, "pk", None) else None
    HistoryLine.objects.create(
        project=project, by=person, what=HistoryLine.What.EVENT, label=label[:300], about=list(about)
    )


def record_rows(
    model: type[Model], made: Callable[[Any], str], taken: Callable[[Any], str] | None = None,
    project: Callable[[Any], Project | None] = lambda row: row.project,
    about: Callable[[Any], Iterable[str]] = lambda row: [f"{row._meta.model_name}:{row.pk}"],
    by: Callable[[Any], Any] = lambda row: getattr(row, "by", None) or acting.get(),
) -> None:  # fmt: skip
    """Add a line whenever a row of a model is made, and where ``taken`` is given, whenever one is taken away.

    made, taken: what is written; nothing where they give "". by: who did it; whoever asks, where the row does not say.
    """

    def on_save(sender: Any, instance: Any, created: bool, **rest: Any) -> None:
        if created and (label := made(instance)):
            record(project(instance), by(instance), label, about(instance))

    def on_delete(sender: Any, instance: Any, origin: Any = None, **rest: Any) -> None:
        # Not where the project itself goes, and all that belongs to it.
        if taken is not None and not isinstance(origin, Project) and (label := taken(instance)):
            record(project(instance), acting.get(), label, about(instance))

    name = f"history of {model._meta.label}"
    post_save.connect(on_save, sender=model, weak=False, dispatch_uid=name)
    post_delete.connect(on_delete, sender=model, weak=False, dispatch_uid=name)
    recorded_models.add(model)
