"""Licences of sets against the project's rules, and how they follow files from project to project."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence

from django.utils import timezone

from studio.rules.models import licences_of
from studio.sets.models import Placement, TextureSet, Waiver
from texel.licences import Licence, Objection, licence_key, objection

__all__ = ["licences_to_carry", "objections_to", "refused"]


def objections_to(rows: Sequence[TextureSet]) -> dict[str, Objection]:
    """What speaks against using sets of one project, by their names; what is lived with does not count."""
    if not rows:
        return {}
    rules = licences_of(rows[0].project)
    if rules is None:
        return {}
    told = {one.pk: objection(Licence(one.licence, one.credit), rules) for one in rows}
    waived = _waived([one for one in rows if told[one.pk]])
    return {
        one.name: told_of for one in rows
        if (told_of := told[one.pk]) is not None and (one.pk, told_of.check, licence_key(one.licence)) not in waived
    }  # fmt: skip


def refused(rows: Sequence[TextureSet]) -> dict[str, str]:
    """Why sets may not be delivered, by their names."""
    return {name: told.message for name, told in objections_to(rows).items() if told.refuses}


def _waived(rows: Iterable[TextureSet]) -> set[tuple[int, str, str]]:
    waivers = Waiver.objects.filter(set__in=[one.pk for one in rows])
    today = timezone.localdate()
    return {(one.set_id, one.check_name, one.map_digest) for one in waivers if one.holds_on(today)}


def licences_to_carry(rows: Sequence[tuple[TextureSet, set[str]]]) -> Iterator[tuple[TextureSet, tuple[str, str]]]:
    """The licence and credit for new sets, given with the digests of their files: those of sets anywhere in the studio
    that hold most of the same files, where these agree.

    Terms come with files: a copy of them in another project is bound by them as well. One file alone says nothing,
    since a plain white map is the same in sets that have nothing to do with each other.
    """
    everything = set().union(*(sources for _, sources in rows))
    told = Placement.objects.filter(file__source__in=everything).exclude(set__licence="").exclude(set=None)
    by_source: dict[str, set[tuple[str, str]]] = {}
    for source, name, credit in told.values_list("file__source", "set__licence", "set__credit"):
        by_source.setdefault(source, set()).add((name, credit))
    for one, sources in rows:
        counts = Counter(terms for source in sources for terms in by_source.get(source, ()))
        common = [terms for terms, count in counts.items() if 2 * count > len(sources)]
        if len(common) == 1:
            yield one, common[0]
