"""Whether what the database refers to is stored and whole, and what is stored that nothing refers to."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from django.core.files.storage import default_storage

from studio.deliveries.archive import here
from studio.deliveries.models import Delivery
from studio.intake.models import SourceFile
from studio.store import MADE_AGAIN, forget, is_sound, is_whole, stored_name, stored_names
from texel import digest

__all__ = ["Ill", "examine"]

# Uses of a file that are named; of more, the number is told.
_SHOWN = 5


@dataclass(frozen=True)
class Ill:
    """kind: missing, damaged, orphaned. what: the stored file, or the file of a delivery. used: where it is used, or
    what can be done. mended: whether it was."""

    kind: str
    what: str
    used: str
    mended: bool = False


def examine(mend: bool = False) -> Iterator[Ill]:
    """Look at everything; what is ill, as it is found. mend: take away what is damaged and can be made again."""
    yield from _sources()
    yield from _derived(mend)
    yield from _deliveries()


def _sources() -> Iterator[Ill]:
    known = set()
    for source in SourceFile.objects.order_by("pk").iterator(500):
        known.add(source.pk)
        name = stored_name("source", source.pk)
        forget(name)
        if not default_storage.exists(name):
            yield Ill("missing", name, _users(source))
        elif not is_whole(source.pk):
            yield Ill("damaged", name, _users(source))
    for name in stored_names(lambda kind: kind == "source"):
        if name.rsplit("/", 1)[-1] not in known:
            yield Ill("orphaned", name, "no file uses it; ./ft manage collect takes it away after a day")


def _users(source: SourceFile) -> str:
    """What has to be uploaded again, by project and path."""
    rows = [f"{row.intake.project.slug}: {row.path}" for row in source.uses.select_related("intake__project")]
    if not rows:
        return "nothing of a project uses it"
    more = f", and {len(rows) - _SHOWN} more" if len(rows) > _SHOWN else ""
    return f"upload again: {', '.join(rows[:_SHOWN])}{more}"


def _derived(mend: bool) -> Iterator[Ill]:
    """What was made carries its checksum; a damaged one is made again when it is asked for."""
    for name in stored_names(lambda kind: kind in MADE_AGAIN):
        forget(name)
        try:
            if is_sound(name):
                continue
        except FileNotFoundError:
            continue  # taken away meanwhile
        if mend:
            default_storage.delete(name)
        yield Ill("damaged", name, "it is made again when it is asked for", mended=mend)


def _deliveries() -> Iterator[Ill]:
    for delivery in Delivery.objects.filter(manifest__isnull=False, gone=None).select_related("project").iterator(50):
        called = f"{delivery.project.slug}, delivery {delivery.number}"
        try:
            folder = here(delivery)
        except FileNotFoundError:
            folder = delivery.folder  # each of its files is told
        for entry in (delivery.manifest or {}).get("files", ()):
            path = folder / entry["path"]
            if not path.is_file():
                yield Ill("missing", str(path.relative_to(folder)), f"{called}; deliver again")
            elif digest.of_file(path) != entry["digest"]:
                yield Ill("damaged", str(path.relative_to(folder)), f"{called}; deliver again")
