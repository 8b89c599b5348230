"""What the page must know of the job: steps, checks, formats, containers, what masters can be written as."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router

from studio.api.answers import role_list
from studio.api.schemas.catalogue import Catalogue
from studio.api.steps import derivations_out
from texel.atlas.packing import LARGEST, PADDINGS
from texel.blocks import FAMILIES, FORMATS, WRITABLE_FORMATS
from texel.channels.layout import builtin_layouts
from texel.checks.titles import CHECK_TITLES
from texel.compression import SORTS, USUAL_FORMATS, fits
from texel.delivery import builtin_targets
from texel.delivery.target import BLOCK_CONTAINERS, PLAIN_CONTAINERS
from texel.ground.patch import FAR_SIDES, MAX_LAYERS, MAX_TERMS, NEW_TERMS, SIDES
from texel.materials.exchange import WRITTEN_AS
from texel.naming.rules import PART_KINDS
from texel.recipes import catalogue as steps

router = Router(tags=["catalogue"])


@router.get("", response=Catalogue)
def catalogue(request: HttpRequest) -> Any:
    """All of it; it changes only with the application."""
    formats = [FORMATS[key] for key in WRITABLE_FORMATS]
    return {
        "steps": steps(),
        "derivations": derivations_out(),
        "checks": [{"check": check, "title": title} for check, title in CHECK_TITLES.items()],
        "formats": [
            {
                "key": one.key, "label": one.label, "family": FAMILIES[one.family], "channels": one.channels,
                "bits_per_texel": one.bits_per_texel, "bits": one.bits,
                "sorts": [sort for sort in SORTS if fits(one, sort)],
            }
            for one in formats
        ],
        "roles": role_list(),
        "sorts": [{"sort": sort, "title": title} for sort, title in SORTS.items()],
        "usual_formats": USUAL_FORMATS,
        "containers": [{"name": name, "bits": list(bits), "blocks": False} for name, bits in PLAIN_CONTAINERS.items()]
        + [{"name": name, "bits": [], "blocks": True} for name in BLOCK_CONTAINERS],
        "targets": [{"name": name, "title": one.get("title", name)} for name, one in builtin_targets().items()],
        "layouts": [{"name": name, "title": one.get("title", name)} for name, one in builtin_layouts().items()],
        "written_as": [{"key": key, **words} for key, words in WRITTEN_AS.items()],
        "name_parts": list(PART_KINDS),
        "ground": {
            "terms": list(NEW_TERMS), "sides": list(SIDES), "far_sides": list(FAR_SIDES), "layers": MAX_LAYERS,
            "terms_of_a_rule": MAX_TERMS,
        },
        "atlas": {"paddings": list(PADDINGS), "largest": LARGEST},
    }  # fmt: skip
