"""Masters with their versions in the studio's library; what projects adopt of them, and their casts."""

from __future__ import annotations

from typing import Literal, NotRequired, TypedDict

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models

from studio.projects.models import Project

__all__ = [
    "Adoption", "Cast", "Function", "FunctionVersion", "LibraryEntry", "LibraryVersion", "Master", "MasterVersion",
    "Wears", "WornRegion",
]  # fmt: skip


class WornRegion(TypedDict):
    """A region of a set as it was when a slot took it; it follows the set's. set: its id. The rest as
    texel.atlas.regions has it."""

    set: int
    name: str
    left: float
    top: float
    width: float
    height: float
    metres: NotRequired[list[float]]


class Wears(TypedDict):
    """What a slot of a model or a layer of ground wears: a cast or a set of the project, by id. region: the part of its
    maps that a slot uses; all of them without it."""

    kind: Literal["cast", "set"]
    id: int
    region: NotRequired[WornRegion]


class LibraryEntry(models.Model):
    """What all projects share. draft: the document that is worked on, not yet published; None when there is none.
    revision: of all that. keepers: who may change it; everybody else uses it."""

    name = models.SlugField(max_length=64, unique=True)
    title = models.CharField(max_length=200)
    draft = models.JSONField(null=True)
    revision = models.IntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    keepers = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="kept_%(class)ss")
    created = models.DateTimeField(auto_now_add=True)
    edited = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True
        ordering = ["title"]

    def __str__(self) -> str:
        return self.title


class LibraryVersion(models.Model):
    """One immutable version. changes: what differs from the one before, as texel.materials.versions tells it."""

    major = models.IntegerField()
    minor = models.IntegerField()
    patch = models.IntegerField()
    document = models.JSONField()
    changes = models.JSONField(default=list)
    note = models.CharField(max_length=500, blank=True)
    deprecated = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True
        ordering = ["major", "minor", "patch"]

    @property
    def number(self) -> str:
        return f"{self.major}.{self.minor}.{self.patch}"


class Master(LibraryEntry):
    """A sheet that projects adopt and cast."""


class MasterVersion(LibraryVersion):
    """One immutable version of a master."""

    master = models.ForeignKey(Master, on_delete=models.CASCADE, related_name="versions")

    class Meta(LibraryVersion.Meta):
        constraints = [
            models.UniqueConstraint(fields=["master", "major", "minor", "patch"], name="one_master_version")
        ]  # fmt: skip


class Function(LibraryEntry):
    """A chain with inputs that sheets call as one step; a sheet carries a copy of the version that it calls."""


class FunctionVersion(LibraryVersion):
    """One immutable version of a function."""

    function = models.ForeignKey(Function, on_delete=models.CASCADE, related_name="versions")

    class Meta(LibraryVersion.Meta):
        constraints = [
            models.UniqueConstraint(fields=["function", "major", "minor", "patch"], name="one_function_version")
        ]  # fmt: skip


class Adoption(models.Model):
    """The version of a master that a project uses. pinned: it does not want newer ones."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="adoptions")
    master = models.ForeignKey(Master, on_delete=models.PROTECT, related_name="adoptions")
    version = models.ForeignKey(MasterVersion, on_delete=models.PROTECT, related_name="adoptions")
    pinned = models.BooleanField(default=False)
    revision = models.IntegerField(default=1)

    class Meta:
        verbose_name = "version in use"
        constraints = [models.UniqueConstraint(fields=["project", "master"], name="one_adoption")]


class Cast(models.Model):
    """A material of a project. parent: the cast that it derives from, None for the master itself.

    changes: parameter values by name; slots: fills by slot ({"set": id, "role"?}); only what differs is kept.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="casts")
    master = models.ForeignKey(Master, on_delete=models.PROTECT, related_name="casts")
    parent = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="derived")
    name = models.CharField(max_length=100)
    changes = models.JSONField(default=dict)
    slots = models.JSONField(default=dict)
    revision = models.IntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        indexes = [GinIndex(fields=["name"], name="cast_name_parts", opclasses=["gin_trgm_ops"])]
        # Checked when a statement ends, or, where casts trade names, when their change is done.
        constraints = [
            models.UniqueConstraint(
                fields=["project", "name"], name="one_cast_name", deferrable=models.Deferrable.IMMEDIATE
            )
        ]

    def __str__(self) -> str:
        return self.name
