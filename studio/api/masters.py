"""The studio's masters: sheets read while they are edited, drafts, versions, differences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, cast

from django.db.models import Count, Q
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Body, File, Path, Router
from ninja.files import UploadedFile

from studio.api.access import NotAllowed, name_of, user_of
from studio.api.documents import Master as MasterBody
from studio.api.schemas.masters import (
    Begin,
    ChainIn,
    ChangeOut,
    Deprecate,
    ImportedOut,
    MasterOut,
    MasterRow,
    Publish,
    ReadOut,
    ReadyMaster,
    SheetCatalogue,
    SheetOut,
    SymptomOut,
    TextOut,
    UserOut,
    VersionRow,
)
from studio.api.seen import IfMatch, newest_of, seen
from studio.materials import asked, keepers, library
from studio.materials.models import LibraryEntry, LibraryVersion, Master, MasterVersion
from studio.projects.models import Project
from texel.errors import BadDocument
from texel.materials import Master as Sheet
from texel.materials import (
    catalogue,
    cost_of,
    parse_chain,
    parse_master,
    read_document,
    read_sheet,
    text_of,
    tree_of,
)
from texel.materials.functions import operations_of, parse_functions
from texel.materials.ready import ready_masters
from texel.materials.starter import starter
from texel.materials.versions import VersionChange, changes_between
from texel.misread import MISREADINGS

router = Router(tags=["masters"])
_LARGEST_MATERIAL = 256 * 2**20


def change_out(one: VersionChange) -> ChangeOut:
    return {
        "what": one.what, "name": one.name, "breaks": one.breaks, "message": one.message, "before": one.before,
        "after": one.after,
    }  # fmt: skip


def _told(read: Mapping[str, Any]) -> SheetOut:
    """A chain's step says "with" in documents, which the page's language keeps for itself."""
    rows = [
        {
            **row,
            "chain": {
                "start": row["chain"]["start"],
                "steps": [
                    {"step": s["step"], "letters": s.get("letters"), "others": s.get("with", [])}
                    for s in row["chain"]["steps"]
                ],
            },
        }
        for row in read["rows"]
    ]
    return cast(SheetOut, {**read, "rows": rows})


def sheet_out(sheet: Sheet) -> SheetOut:
    """A sheet as the page reads it."""
    return _told(read_sheet(sheet))


def _row(master: Any) -> MasterRow:
    """master: with its counts, as _masters gives it."""
    versions = list(master.versions.all())
    return {
        "name": master.name, "title": master.title, "newest": versions[-1].number if versions else None,
        "draft": master.draft is not None, "casts": master.cast_count, "projects": master.project_count,
    }  # fmt: skip


def version_rows(versions: Sequence[LibraryVersion]) -> list[VersionRow]:
    """Versions as the page reads them, the newest first."""
    return [
        {
            "number": one.number, "note": one.note, "by": name_of(one.by),
            "created": one.created, "deprecated": one.deprecated, "changes": one.changes,
        }
        for one in reversed(versions)
    ]  # fmt: skip


def _masters() -> Any:
    counted = Master.objects.annotate(
        cast_count=Count("casts", distinct=True), project_count=Count("adoptions", distinct=True)
    )  # fmt: skip
    return counted.prefetch_related("versions")


def _out(request: HttpRequest, name: str) -> MasterOut:
    master = get_object_or_404(_masters(), name=name)
    versions = list(master.versions.select_related("by"))
    rows = version_rows(versions)
    document = master.draft if master.draft is not None else versions[-1].document
    return {
        **_row(master), "document": document, "versions": rows, "may_write": keepers.may_keep(user_of(request), master),
        "users": _users(request, master), "revision": master.revision, "keepers": keepers.names_of(master),
    }  # fmt: skip


@newest_of(Master)
def _newest(request: HttpRequest, row: Master) -> MasterOut:
    return _out(request, row.name)


def _users(request: HttpRequest, master: Master) -> list[UserOut]:
    """The projects that use a master; of those that are not the asking person's the number alone."""
    person = user_of(request)
    mine = set(Project.objects.filter(members__user=person).values_list("pk", flat=True))
    rows = master.adoptions.select_related("project", "version").annotate(
        count=Count("project__casts", filter=Q(project__casts__master=master))
    )
    return [
        {
            "title": one.project.name if one.project_id in mine else None,
            "number": one.version.number, "casts": one.count,
        }
        for one in rows.order_by("project__name")
    ]  # fmt: skip


def _must_keep(request: HttpRequest, name: str) -> None:
    must_keep(request, get_object_or_404(Master, name=name))


def must_keep(request: HttpRequest, master: LibraryEntry) -> None:
    """Raises NotAllowed for somebody who does not keep it."""
    if not keepers.may_keep(user_of(request), master):
        who = ", ".join(keepers.names_of(master)) or "an administrator"
        raise NotAllowed(
            "{title} is shared by all projects. It is kept by {who}; ask to become a keeper.",
            title=master.title,
            who=who,
        )


def must_write(request: HttpRequest) -> None:
    """Raises NotAllowed for somebody who may add nothing to the library."""
    if not keepers.may_make_masters(user_of(request)):
        raise NotAllowed(
            "All projects share the library; adding to it is for its keepers. An administrator makes keepers."
        )


# Words of a search that are looked for.
_MAX_WORDS = 16


@router.get("", response=list[MasterRow])
def list_masters(request: HttpRequest, search: str = "") -> Any:
    """The library. search: words of the title or the name."""
    # One condition a word: joining whole queries doubles them with every word.
    words = [Q(title__icontains=word) | Q(name__icontains=word) for word in search.split()[:_MAX_WORDS]]
    rows = _masters().filter(*words)
    return [_row(master) for master in rows]


@router.get("/catalogue", response=SheetCatalogue)
def show_catalogue(request: HttpRequest) -> Any:
    """What sheets are made of."""
    return catalogue()


@router.get("/symptoms", response=list[SymptomOut])
def symptoms(request: HttpRequest) -> Any:
    """What surfaces look like when a target reads their maps wrongly, with cause and remedy."""
    return [
        {"key": one.key, "symptom": one.symptom, "cause": one.cause, "remedy": one.remedy} for one in MISREADINGS
    ]  # fmt: skip


@router.post("/read", response=ReadOut)
def read(request: HttpRequest, document: Body[MasterBody]) -> Any:
    """Read a sheet that is being edited: rows, remarks, cost, shader. Nothing is kept."""
    told = read_document(document)
    return {**told, "sheet": _told(told["sheet"]) if told["sheet"] else None}


@router.post("/chain", response=TextOut)
def chain(request: HttpRequest, given: ChainIn) -> Any:
    """The expression of a chain."""
    steps = [
        {"step": one.step, "letters": one.letters, "with": one.others} if one.letters else
        {"step": one.step, "with": one.others}
        for one in given.steps
    ]  # fmt: skip
    called = operations_of(parse_functions(given.functions, "the sheet").values())
    return {"text": text_of(tree_of(parse_chain({"start": given.start, "steps": steps}, called)))}


@router.post("/import", response=list[ImportedOut])
def import_material(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """Masters in a MaterialX or glTF file, and what of it a sheet cannot say. Nothing is kept."""
    must_write(request)
    if (file.size or 0) > _LARGEST_MATERIAL:
        raise BadDocument(
            "{file}: a material has at most {largest_material} MiB",
            file=file.name,
            largest_material=_LARGEST_MATERIAL // 2**20,
        )
    path = file.temporary_file_path()  # type: ignore[attr-defined]  # uploads always go to files
    read: list[asked.ReadMaster] = asked.read_foreign.ask(
        user_of(request).pk, path=path, name=file.name or "the file"
    ).said
    masters_read: dict[str, asked.ReadMaster] = {}
    for one in read:
        name = library.free_master_name(one["document"]["name"], masters_read)
        masters_read[name] = {**one, "document": {**one["document"], "name": name}}
    return list(masters_read.values())


@router.post("", response=MasterOut)
def create(request: HttpRequest, document: Body[MasterBody]) -> Any:
    """A new master with a draft."""
    must_write(request)
    return _out(request, library.create_master(document, user_of(request)).name)


@router.post("/begin", response=MasterOut)
def begin(request: HttpRequest, given: Begin) -> Any:
    """A new master with a draft that works, to be changed: a ready-made one."""
    must_write(request)
    return _out(request, library.create_master(starter(given.title, given.ready), user_of(request)).name)


@router.get("/ready", response=list[ReadyMaster])
def ready(request: HttpRequest) -> Any:
    """The masters that come with the product, to begin from."""
    return [
        {"name": name, "title": one["title"], "help": one["help"], "cost": cost_of(parse_master(one)).document()}
        for name, one in ready_masters().items()
    ]


@router.get("/{name}", response=MasterOut)
def show(request: HttpRequest, name: Path[str]) -> Any:
    return _out(request, name)


@router.put("/{name}/draft", response=MasterOut)
def put_draft(request: HttpRequest, name: Path[str], document: Body[MasterBody], if_match: IfMatch = None) -> Any:
    """Keep what is worked on; versions stay as they are. For keepers."""
    _must_keep(request, name)
    library.keep_draft(name, document, seen(if_match))
    return _out(request, name)


@router.post("/{name}/publish", response=MasterOut)
def publish(request: HttpRequest, name: Path[str], given: Publish, if_match: IfMatch = None) -> Any:
    """Make an immutable version of the draft, numbered by what it breaks. For keepers."""
    _must_keep(request, name)
    library.publish(name, given.note, user_of(request), seen(if_match))
    return _out(request, name)


@router.get("/{name}/versions/{number}", response=MasterBody)
def version(request: HttpRequest, name: Path[str], number: Path[str]) -> Any:
    """A version's document, as the command line reads it."""
    return library.version_of(get_object_or_404(Master, name=name), number).document


@router.put("/{name}/versions/{number}/deprecated", response=MasterOut)
def put_deprecated(request: HttpRequest, name: Path[str], number: Path[str], given: Deprecate) -> Any:
    """Say that a version should not be adopted any more, or may be again. For keepers."""
    _must_keep(request, name)
    library.deprecate(name, number, given.deprecated)
    return _out(request, name)


@router.put("/{name}/keepers/{person}", response=MasterOut)
def put_keeper(request: HttpRequest, name: Path[str], person: Path[str]) -> Any:
    """Let somebody change the master as well. For keepers."""
    _must_keep(request, name)
    keepers.add(Master, name, person, user_of(request))
    return _out(request, name)


@router.delete("/{name}/keepers/{person}", response=MasterOut)
def delete_keeper(request: HttpRequest, name: Path[str], person: Path[str]) -> Any:
    """Let somebody change the master no more; one keeper must be left. For keepers."""
    _must_keep(request, name)
    keepers.remove(Master, name, person, user_of(request))
    return _out(request, name)


@router.get("/{name}/difference", response=list[ChangeOut])
def difference(request: HttpRequest, name: Path[str], before: str, after: str = "draft") -> Any:
    """What differs between two versions, row by row; "draft" is what is worked on."""
    master = get_object_or_404(Master, name=name)

    def sheet(number: str) -> Any:
        if number == "draft":
            newest: MasterVersion | None = master.versions.last()
            return parse_master(master.draft or (newest.document if newest else {}), "the draft")
        return library.sheet_of(library.version_of(master, number))

    return [change_out(one) for one in changes_between(sheet(before), sheet(after))]
