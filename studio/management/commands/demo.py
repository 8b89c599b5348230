"""Make the demo: two invented projects, three people, and the untidy intake, taken in as a person's upload would be."""

from __future__ import annotations

import json
import secrets
import tempfile
import time
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.base import File
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from demo.ferry import ferry_glb
from demo.functions import CALLERS, FUNCTIONS
from demo.intake import PROJECTS, write_project_folder
from demo.licences import LICENCES, OTHERS, RULES
from demo.marsh import MARSH, PATH, marsh_layers
from demo.materials import CASTS, MASTERS, NEWER
from scanlibrary.shelf import Shelf
from studio.ground.editing import add_stroke, create_ground
from studio.intake.models import Intake
from studio.intake.uploads import take_folder
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.materials import casts, functions, library
from studio.materials.models import Cast, Master
from studio.meshes.taking import take_model
from studio.projects.models import Membership, Project
from studio.rules.models import add_version, target_documents
from studio.scans.accounts import keep_account
from studio.scans.client import library_names
from studio.sets.editing import set_licence
from studio.sets.models import TextureSet
from studio.watched.folders import add_folder
from texel.document_types import TargetBudget, TargetDocument

_NAMES = {"saltmarsh_ferry": "Saltmarsh Ferry", "night_orchard": "Night Orchard"}
_TARGETS = {"saltmarsh_ferry": "orm-y-minus", "night_orchard": "metal-rough-gloss-y-plus"}
_PEOPLE = {"ada": Membership.Right.MANAGE, "bram": Membership.Right.PREPARE, "cleo": Membership.Right.LOOK}
_ADMINISTRATOR = "ada"
_BUDGET: TargetBudget = {"memory_mib": 40, "density": 256}
_METRES = 2
_PATIENCE_SECONDS = 300


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--address", default="")

    def handle(self, *, address: str, **options: Any) -> None:
        words = _passwords()
        people = {name: _person(name, words[name]) for name in _PEOPLE}
        projects = {slug: _project(slug, people) for slug in PROJECTS}
        # What failed before is taken in anew.
        missing = [slug for slug, one in projects.items() if not _intakes(one).exists()]
        if missing:
            self.stdout.write("ft: drawing the demo's textures ...")
            with tempfile.TemporaryDirectory() as folder:
                for slug in missing:
                    write_project_folder(slug, Path(folder) / slug)
                    self.stdout.write(f"ft: taking in {_NAMES[slug]} ...")
                    _take_in(projects[slug], Path(folder) / slug, people["ada"])
        self._wait()
        for one in projects.values():
            if not _intakes(one).exists():
                last = Job.objects.filter(project=one, state=Job.State.FAILED).order_by("pk").last()
                raise CommandError(f"sorting {one.name} failed: {last.message if last else 'see the jobs'}")
        _cast_materials(projects, people["ada"])
        _agree_on(projects.values(), people["ada"])
        _watch(projects["saltmarsh_ferry"], people["ada"])
        _take_ferry(projects["saltmarsh_ferry"], people["ada"])
        _lay_out_marsh(projects["saltmarsh_ferry"], people["ada"])
        _open_account(people["ada"])
        self._wait()
        self.stdout.write(f"\n     Fair Texel is at {address}")
        self.stdout.write(f"     Sign in as ada, password {words['ada']}")
        self.stdout.write(f"     (bram may prepare: {words['bram']}; cleo may look: {words['cleo']})")

    def _wait(self) -> None:
        deadline = time.monotonic() + _PATIENCE_SECONDS
        said = None
        while waiting := Job.objects.exclude(state__in=Job.ENDED).count():
            if time.monotonic() > deadline:
                raise CommandError("the workers do not get on with the demo's sets; see the log of the workers")
            if waiting != said:
                self.stdout.write(f"ft: sorting and judging, {waiting} to go ...")
                said = waiting
            time.sleep(1)


def _intakes(project: Project) -> Any:
    """Those that are sorted or on the way to it."""
    return project.intakes.exclude(state=Intake.State.FAILED)


def _cast_materials(projects: dict[str, Project], by: Any) -> None:
    """The masters with a version each, the casts of both games, and then the versions that wait. Made once."""
    if Master.objects.filter(name=MASTERS[0]["name"]).exists():
        return
    with transaction.atomic():
        for document in MASTERS:
            library.publish(library.create_master(document, by).name, "First version", by)
        for document in FUNCTIONS:
            functions.publish(functions.create_function(document, by).name, "First version", by)
        for document in CALLERS:
            library.publish(library.create_master(document, by).name, "First version", by)
        for slug, rows in CASTS.items():
            for row in rows:
                _cast(projects[slug], row, by)
        for document, note in NEWER:
            library.keep_draft(document["name"], document)
            library.publish(document["name"], note, by)


def _watch(project: Project, by: Any) -> None:
    """A folder to export into, empty at first. Made once."""
    if not project.watched.exists():
        (Path(settings.WATCHED_ROOTS[0]) / project.slug).mkdir(parents=True, exist_ok=True)
        add_folder(project, "Paint exports", project.slug, 2.0, by)


def _take_ferry(project: Project, by: Any) -> None:
    """The ferry's model, its slots still to be filled. Made once."""
    if project.meshes.exists():
        return
    with tempfile.NamedTemporaryFile(suffix=".glb") as file:
        file.write(ferry_glb())
        file.flush()
        take_model(project, [("ferry.glb", File(file, name=file.name))], by, "Ferry")


def _lay_out_marsh(project: Project, by: Any) -> None:
    """The marsh that the ferry crosses, with five layers and a path. Made once."""
    if project.grounds.exists():
        return
    layers = marsh_layers(dict(project.sets.values_list("name", "pk")))
    marsh = create_ground(project, "Tidal marsh", by, {**MARSH, "layers": layers})
    add_stroke(project, marsh.pk, PATH, by)


def _open_account(by: Any) -> None:
    """Each stand-in library that is served has one account, and ada its key."""
    for name in library_names():
        shelf = Shelf(Path(settings.HOME) / "library")
        keep_account(by, name, shelf.key, shelf.account)


def _agree_on(projects: Iterable[Project], by: Any) -> None:
    """Each project's budget and what licences it takes; how large its sets are, and under which terms they came. Said
    once."""
    for project in projects:
        if project.rules.filter(kind="licences").exists():
            continue
        target: TargetDocument = {**target_documents(project)[project.target], "budget": _BUDGET}
        add_version(project, "target", project.target, target, by)
        project.sets.update(metres=_METRES)
        groups: dict[tuple[str, str], list[TextureSet]] = {}
        for one in project.sets.all():
            groups.setdefault(LICENCES.get(one.name, OTHERS), []).append(one)
        with transaction.atomic():
            add_version(project, "licences", "house", RULES, by)
            for (name, credit), sets in groups.items():
                set_licence(project, [one.pk for one in sets], name, credit, by)


def _cast(project: Project, row: Mapping[str, Any], by: Any) -> None:
    parent = project.casts.get(name=row["parent"]).pk if "parent" in row else None
    master = Master.objects.get(name=row["master"]) if parent is None else None
    made: Cast = casts.create_cast(project, row["name"], master, parent, by)
    if "set" in row:
        one = project.sets.filter(name=row["set"]).first()
        if one is not None:
            casts.fill_from_set(project, made.pk, one.pk, by)
            by_hand = row.get("slots", {}).items()
            casts.change_casts(
                project, [made.pk], by, slots={slot: {"set": one.pk, "role": role} for slot, role in by_hand}
            )
    for layer, name in row.get("sets", {}).items():
        one = project.sets.filter(name=name).first()
        if one is not None:
            casts.fill_from_set(project, made.pk, one.pk, by, layer)
    if "changes" in row:
        casts.change_casts(project, [made.pk], by, changes=row["changes"])


def _slug(name: str) -> str:
    return name.replace("_", "-")


def _passwords() -> dict[str, str]:
    """Made once, kept in the data folder; the demo answers on loopback only."""
    path = Path(settings.HOME) / "demo-sign-in.json"
    if not path.exists():
        path.write_text(json.dumps({name: secrets.token_urlsafe(9) for name in _PEOPLE}))
        path.chmod(0o600)
    made: dict[str, str] = json.loads(path.read_text())
    return made


def _person(name: str, password: str) -> Any:
    people = get_user_model().objects
    person, _ = people.get_or_create(username=name)
    if name == _ADMINISTRATOR and not people.filter(is_superuser=True).exists():
        person.is_superuser = True
        person.save(update_fields=["is_superuser"])
    if not person.check_password(password):
        person.set_password(password)
        person.save()
    return person


def _project(name: str, people: Mapping[str, Any]) -> Project:
    project, made = Project.objects.get_or_create(
        slug=_slug(name), defaults={"name": _NAMES[name], "target": _TARGETS[name]}
    )
    if made:
        for person, right in _PEOPLE.items():
            Membership.objects.create(project=project, user=people[person], right=right)
    return project


def _take_in(project: Project, folder: Path, by: Any) -> None:
    with transaction.atomic():
        intake = Intake.objects.create(project=project, name=f"{project.name}, first folder", by=by)
        take_folder(intake, folder)
        Intake.objects.filter(pk=intake.pk).update(state=Intake.State.SORTING)
        enqueue(project, "sort", f"Sort {intake.name}", by, intake=intake.pk)
