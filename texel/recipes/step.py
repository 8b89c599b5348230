"""What a step of a recipe is: typed options with ranges, and a function from texels to texels."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import MISSING, Field, asdict, dataclass, field, fields, replace
from typing import Any, ClassVar, NamedTuple

import numpy as np

from texel.errors import BadDocument, MismatchedMaps
from texel.image import Pixels, Texels, narrow
from texel.repair.covered import covered_from
from texel.repair.quilting import patches_from
from texel.roles import ROLES, Green, Role, facts
from texel.strips import filled

__all__ = [
    "ANY", "COLOURS", "LENGTHS", "NORMALS", "SCALARS", "Context", "Shape", "Step", "choice", "cover", "in_texels",
    "map_of", "number", "over_colour", "patches", "switch", "whole",
]  # fmt: skip

ANY: tuple[Role, ...] = ROLES
# What a length across the surface, or above it, may be given in.
LENGTHS = {"texels": "Texels", "percent": "Percent of the width", "metres": "Metres"}
NORMALS: tuple[Role, ...] = (Role.NORMAL,)
SCALARS: tuple[Role, ...] = tuple(role for role in ROLES if facts(role).channels == 1)
COLOURS: tuple[Role, ...] = tuple(role for role in ROLES if facts(role).channels == 3 and role is not Role.NORMAL)


class Shape(NamedTuple):
    """What is known of a map without decoding it. channels: letters as in Texels; bits: 8, 16 or 32 a channel."""

    width: int
    height: int
    channels: str
    bits: int


@dataclass(frozen=True)
class Context:
    """What a step may ask for besides its texels.

    scale: texels here for each texel of the full map; below 1 in a preview, so that radii and slopes fit.
    most: texels that a preview may have, however large the full map gets; None outside previews.
    depth: what the step's result is stored at, when it is the last of its recipe; None for floats, full scale 1.
    other: another map of the same set by name ("occlusion", or "normal/2" for the second one). Raises MismatchedMaps.
    """

    scale: float = 1.0
    most: int | None = None
    depth: np.dtype[Any] | None = None
    other: Callable[[str], Texels] = field(default=lambda name: _no_other(name))

    def by_strips(self, shape: tuple[int, ...], make: Callable[[slice], Pixels], around: int = 0) -> Pixels:
        """A step's result of ``shape``, its rows made as floats by ``make(rows)`` and stored strip by strip, over all
        cores. around: rows beyond a strip that make reads too."""
        depth = self.depth
        if depth is None:
            return filled(shape, np.dtype(np.float32), make, around)
        return filled(shape, depth, lambda part: self.stored(make(part)), around)

    def stored(self, values: Pixels) -> Pixels:
        """Floats, full scale 1, as the step's result is stored."""
        return values if self.depth is None else narrow(values, self.depth)


def _no_other(name: str) -> Texels:
    raise MismatchedMaps("this recipe needs the set's {name} map, and there is none here", name=name.replace("_", " "))


def number(default: float, low: float, high: float, help: str, unit: str = "") -> Any:
    """A float from ``low`` to ``high``, both included."""
    return field(default=default, metadata={"kind": "number", "low": low, "high": high, "help": help, "unit": unit})


def whole(low: int, high: int, help: str, unit: str = "", default: int | None = None) -> Any:
    """A whole number from ``low`` to ``high``, both included; without a default it must be given."""
    facts_ = {"kind": "whole", "low": low, "high": high, "help": help, "unit": unit}
    return field(metadata=facts_) if default is None else field(default=default, metadata=facts_)


def choice(default: str, values: Mapping[str, str], help: str) -> Any:
    """One of ``values``: key to the words that people see."""
    return field(default=default, metadata={"kind": "choice", "values": dict(values), "help": help})


def switch(default: bool, help: str) -> Any:
    return field(default=default, metadata={"kind": "switch", "help": help})


def map_of(default: str, help: str) -> Any:
    """The name of another map of the same set."""
    return field(default=default, metadata={"kind": "map", "help": help})


def cover(help: str) -> Any:
    """Which texels are used, as texel.repair.covered writes them; "" where nothing is known."""
    return field(default="", metadata={"kind": "cover", "help": help})


def patches(help: str) -> Any:
    """What is laid where along the borders, as texel.repair.quilting writes it; "" where each map decides by itself."""
    return field(default="", metadata={"kind": "patches", "help": help})


def _valid_map(name: object) -> bool:
    if not isinstance(name, str):
        return False
    role, _, number_ = name.partition("/")
    return role in {r.value for r in Role} and (not number_ or (number_.isdigit() and 1 < int(number_) < 100))


def _check(step: str, option: Field[Any], value: object) -> Any:
    """The value as the option's type. Raises BadDocument."""
    facts_, name = option.metadata, option.name
    kind = facts_["kind"]
    plain_number = isinstance(value, int | float) and not isinstance(value, bool)
    if kind in ("number", "whole"):
        low, high = facts_["low"], facts_["high"]
        fits = plain_number and math.isfinite(value) and low <= value <= high  # type: ignore[arg-type]
        if not fits or (kind == "whole" and not isinstance(value, int)):
            word = "a whole number" if kind == "whole" else "a number"
            raise BadDocument(
                "step {step}: {name} must be {word} from {low} to {high}, not {value!r}",
                step=step,
                name=name,
                word=word,
                low=low,
                high=high,
                value=value,
            )
        return float(value) if kind == "number" else value  # type: ignore[arg-type]
    if kind == "choice" and value not in facts_["values"]:
        raise BadDocument(
            "step {step}: {name} must be one of {listed}, not {value!r}",
            step=step,
            name=name,
            listed=", ".join(facts_["values"]),
            value=value,
        )
    if kind == "switch" and not isinstance(value, bool):
        raise BadDocument("step {step}: {name} must be true or false, not {value!r}", step=step, name=name, value=value)
    if kind in ("cover", "patches"):
        if not isinstance(value, str):
            raise BadDocument("step {step}: {name} must be a text, not {value!r}", step=step, name=name, value=value)
        if value:
            (covered_from if kind == "cover" else patches_from)(value)
    if kind == "map" and not _valid_map(value):
        raise BadDocument(
            "step {step}: {name} must be a role, or a role and a number as in normal/2, not {value!r}",
            step=step,
            name=name,
            value=value,
        )
    return value


@dataclass(frozen=True)
class Step:
    """One step. A subclass is a dataclass whose fields are its options.

    step: its key in documents. label: what people see, a verb first. group: where the page lists it. suits: the roles
    that it makes sense for. exact: it maps stored numbers to stored numbers; others work on floats, full scale 1, and
    are rounded once at the end of their run. depth: the bits that its result deserves, if more than its input has.
    from_stored: its apply also takes integers, as they are stored, and makes floats of them by itself.
    local: a texel of the result depends on that texel alone, so that a picture may be worked on strip by strip.
    curve: for a step that maps values alone, whatever the channel, the same function on an array of values, 0 to 1; it
    leaves alpha as it is. None for the others.
    """

    step: ClassVar[str]
    label: ClassVar[str]
    group: ClassVar[str] = "Values"
    suits: ClassVar[tuple[Role, ...]] = ANY
    exact: ClassVar[bool] = False
    depth: ClassVar[int] = 8
    from_stored: ClassVar[bool] = False
    local: ClassVar[bool] = False
    curve: ClassVar[Callable[[Any, Pixels], Pixels] | None] = None

    def apply(self, texels: Texels, context: Context) -> Texels:
        """The step on texels: of any depth for an exact step, floats for the others. Raises MismatchedMaps."""
        if self.curve is None:
            raise NotImplementedError
        curve = self.curve
        return over_colour(texels, lambda values: curve(values).astype(np.float32))

    def green(self, before: Green | None) -> Green | None:
        """The direction of green behind this step."""
        return before

    def shape(self, before: Shape) -> Shape:
        """Size, channels and depth behind this step."""
        return before._replace(bits=max(before.bits, self.depth))

    @property
    def summary(self) -> str:
        """The step with its options, for lists and the history."""
        return self.label

    @property
    def others(self) -> tuple[str, ...]:
        """Names of the other maps that it reads."""
        return tuple(getattr(self, f.name) for f in fields(self) if f.metadata["kind"] == "map")

    @classmethod
    def parse(cls, options: Mapping[str, Any]) -> Step:
        """From a document's options. Raises BadDocument for one that is unknown, missing or out of range."""
        known = {f.name: f for f in fields(cls)}
        needed = {f.name for f in fields(cls) if f.default is MISSING}
        if set(options) - set(known) or needed - set(options):
            raise BadDocument(
                "step {step} takes {what}, not {options}",
                step=cls.step,
                what=sorted(known) or "no options",
                options=sorted(options),
            )
        return cls(**{name: _check(cls.step, f, options.get(name, f.default)) for name, f in known.items()})

    def document(self) -> dict[str, Any]:
        """The whole step, defaults included, so that a later default does not change what was chosen today."""
        return {"step": self.step, **asdict(self)}


def in_texels(length: float, unit: str, size: float, texels: Texels, context: Context) -> float:
    """A length given in one of LENGTHS as texels of the map at hand. size: metres that its width covers."""
    if unit == "percent":
        return length / 100 * texels.width
    return length * texels.width / size if unit == "metres" else length * context.scale


def over_colour(texels: Texels, change: Callable[[Pixels], Pixels]) -> Texels:
    """``change`` on every channel but alpha, shape (h, w, c)."""
    count = len(texels.channels.removesuffix("a")) or 1
    changed = change(texels.pixels[:, :, :count])
    if count == texels.pixels.shape[2]:
        return replace(texels, pixels=changed)
    return replace(texels, pixels=np.concatenate([changed, texels.pixels[:, :, count:]], axis=2))
