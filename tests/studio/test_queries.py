"""However many rows a list has, it takes the same few queries."""

from datetime import timedelta

import pytest
from django.contrib.auth import get_user_model
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from studio.deliveries.models import Delivery
from studio.ground.models import Ground, GroundStroke
from studio.intake.models import FileName, Intake, IntakeFile, SourceFile
from studio.jobs.models import Job
from studio.materials.models import Adoption, Cast, Function, FunctionVersion, Master, MasterVersion
from studio.meshes.models import Mesh
from studio.people.models import AccessToken, Invitation, LogEntry
from studio.projects.models import HistoryLine, Membership, Project
from studio.rules.models import RuleDocument, builtin_documents
from studio.sets.judging import judge_again
from studio.sets.models import Finding, Placement, TextureSet, Waiver
from studio.sets.twins import renew_twins
from studio.team.models import Comment, Notice, ReviewStep
from tests.sheets import WET, a_master

pytestmark = pytest.mark.django_db
_FEW, _MANY = 10, 200
_PROBE = {"container": "png", "width": 8, "height": 8, "channels": "rgb", "bits": 8, "lossy": False, "layers": []}


def fill(project, person, start, count):
    """Rows of every kind that a list shows, each with what hangs on it."""
    number = range(start, start + count)
    sources = SourceFile.objects.bulk_create(SourceFile(digest=f"{n:064d}", bytes=9, probe=_PROBE) for n in number)
    intakes = Intake.objects.bulk_create(
        Intake(project=project, name=f"in {n}", state="sorted", by=person, habit=[]) for n in number
    )
    files = IntakeFile.objects.bulk_create(
        IntakeFile(intake=intake, path=f"deck{n}_bc.png", came_as=f"d{n}.png", source=source)
        for n, intake, source in zip(number, intakes, sources, strict=True)
    )
    FileName.objects.bulk_create(FileName(file=file, path="before.png", by=person) for file in files)
    sets = TextureSet.objects.bulk_create(TextureSet(project=project, name=f"deck{n}") for n in number)
    maps = Placement.objects.bulk_create(
        Placement(
            project=project, intake=file.intake, file=file, set=one, role="base_color", tone=n % 250,
            signature=bytes([n % 256]) * 2304,
        )
        for n, file, one in zip(number, files, sets, strict=True)
    )  # fmt: skip
    Placement.objects.bulk_create(
        Placement(project=project, intake=file.intake, file=file, candidates=[]) for file in files
    )
    empty = dict.fromkeys(("file", "measure", "threshold", "remedy", "place"))
    document = {**empty, "check": "size", "role": "base_color", "message": "odd", "severity": "warning"}
    findings = [Finding(set=m.set, placement=m, rank=0, severity="warning", document=document) for m in maps]
    Finding.objects.bulk_create(findings)
    Waiver.objects.bulk_create(
        Waiver(set=one, check_name="size", role="base_color", reason="meant so", by=person) for one in sets
    )
    layer = {"key": "l1", "name": "Mud", "tile": 2, "turn": 0, "repeat": "plain", "edge": 0, "rule": []}
    patches = Ground.objects.bulk_create(
        Ground(project=project, name=f"marsh {n}", layers=[{**layer, "wears": {"kind": "set", "id": one.pk}}])
        for n, one in zip(number, sets, strict=True)
    )
    GroundStroke.objects.bulk_create(GroundStroke(ground=one, stroke={"layer": "l1"}) for one in patches)
    Mesh.objects.bulk_create(
        Mesh(project=project, name=f"boat {n}", wears={"deck": {"kind": "set", "id": one.pk}})
        for n, one in zip(number, sets, strict=True)
    )
    Job.objects.bulk_create(Job(project=project, kind="judge", title="x", by=person) for _ in number)
    jobs = list(project.jobs.order_by("-pk")[:count])
    Delivery.objects.bulk_create(
        Delivery(project=project, number=n + 1, target={"name": "x"}, sets={}, set_ids=[], job=job, by=person)
        for n, job in zip(number, jobs, strict=True)
    )
    Job.objects.bulk_create(
        Job(project=project, kind="export", title="x", by=person, state="done", payload={"format": "glsl", "casts": []})
        for _ in number
    )
    rule = builtin_documents("names")["house"]
    RuleDocument.objects.bulk_create(
        RuleDocument(project=project, kind="names", name="house", number=n + 1, document=rule, by=person)
        for n in number
    )
    people = get_user_model().objects.bulk_create(get_user_model()(username=f"person{n}") for n in number)
    Membership.objects.bulk_create(Membership(project=project, user=one, right="look") for one in people)
    others = Project.objects.bulk_create(Project(slug=f"other{n}", name=f"Other {n}") for n in number)
    Membership.objects.bulk_create(Membership(project=one, user=person, right="look") for one in others)
    LogEntry.objects.bulk_create(LogEntry(event="refused", person=person, project=project) for _ in number)
    AccessToken.objects.bulk_create(AccessToken(user=person, name="x", hash=f"{n:064d}") for n in number)
    said = Comment.objects.bulk_create(Comment(project=project, set=one, text="x", by=people[0]) for one in sets)
    Comment.objects.bulk_create(
        Comment(project=project, set=one.set, parent=one, text="y", by=people[1]) for one in said
    )
    Comment.mentions.through.objects.bulk_create(
        Comment.mentions.through(comment_id=one.pk, user_id=person.pk) for one in said
    )
    ReviewStep.objects.bulk_create(ReviewStep(set=one, state="ready", by=people[0]) for one in sets)
    Notice.objects.bulk_create(
        Notice(person=person, project=project, by=people[0], text="x", path="/p") for _ in number
    )  # fmt: skip
    soon = timezone.now() + timedelta(days=1)
    Invitation.objects.bulk_create(
        Invitation(project=project, right="look", hash=f"{n:064d}", until=soon, by=people[0]) for n in number
    )
    HistoryLine.objects.bulk_create(
        HistoryLine(project=project, what="event", label="x", by=people[0], about=[f"sets:{one.pk}"]) for one in sets
    )
    master, _ = Master.objects.get_or_create(name="stone", defaults={"title": "Stone"})
    version, _ = MasterVersion.objects.get_or_create(
        master=master, major=1, minor=0, patch=0, defaults={"document": a_master()}
    )
    Adoption.objects.get_or_create(project=project, master=master, version=version)
    roots = Cast.objects.bulk_create(
        Cast(project=project, master=master, name=f"cast {n}", changes={"wear": 0.5}) for n in number
    )
    Cast.objects.bulk_create(
        Cast(project=project, master=master, parent=root, name=f"of {root.name}", changes={"wear": 0.6})
        for root in roots
    )
    masters = Master.objects.bulk_create(Master(name=f"m{n}", title=f"M {n}", draft=a_master()) for n in number)
    MasterVersion.objects.bulk_create(
        MasterVersion(master=one, major=1, minor=0, patch=0, document=a_master() | {"functions": [WET]})
        for one in masters
    )
    functions = Function.objects.bulk_create(
        Function(name=f"wet_{n}" if n else "wet", title=f"Wet {n}", draft=WET) for n in number
    )
    FunctionVersion.objects.bulk_create(
        FunctionVersion(function=one, major=1, minor=0, patch=0, document=WET) for one in functions
    )


LISTS = [
    "/sets", "/intakes", "/waivers", "/materials", "/jobs", "/deliveries", "/members", "/names", "/habit", "/log",
    "/rules/names", "/rules/names/house/versions", "/materials/exports", "/materials/masters/stone/compare", "/targets",
    "/models", "/grounds", "/sets.json", "", "//projects", "//masters", "//masters/stone", "//tokens",
    "//functions", "//functions/wet", "/comments", "/reviews", "/sets/table", "/sets/findings", "/history",
    "/invitations", "//notices",
    "//waiting", "//history",
]  # fmt: skip


def asked(call, path):
    address = f"/api{path[1:]}" if path.startswith("//") else f"/api{call.base}{path}"
    with CaptureQueriesContext(
        connection,
    ) as queries:
        answer = call.client.get(address)
    assert answer.status_code == 200, (path, answer.content[:300])
    return [one["sql"] for one in queries.captured_queries]


def test_lists_take_as_many_queries_with_many_rows_as_with_few(call, project):
    person = Membership.objects.get().user
    fill(project, person, 0, _FEW)
    few = {path: len(asked(call, path)) for path in LISTS}
    fill(project, person, _FEW, _MANY - _FEW)
    many = {path: asked(call, path) for path in LISTS}
    grown = {
        path: (few[path], len(many[path]), many[path][-1][:200]) for path in LISTS if len(many[path]) > few[path] + 1
    }
    assert not grown, {path: numbers[:2] for path, numbers in grown.items()}
    assert max(few.values()) < 30


def test_judging_takes_few_queries_for_many_sets(call, project):
    """Twins were looked for set by set."""
    person = Membership.objects.get().user
    counts = []
    for start, count in ((0, _FEW), (_FEW, _MANY - _FEW)):
        fill(project, person, start, count)
        ids = list(project.sets.values_list("pk", flat=True))
        with CaptureQueriesContext(connection) as queries:
            renew_twins(project, ids)
            judge_again(project, person)
        counts.append(len(queries))
    assert counts[1] <= counts[0] + 2
