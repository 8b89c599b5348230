"""What an ICC profile is: its curve and its primaries, measured, whatever it calls itself."""

from __future__ import annotations

import struct
import zlib
from functools import lru_cache

import imagecodecs
import numpy as np

from texel.colour import decode_srgb
from texel.image import REC709

__all__ = ["inflate_profile", "profile_primaries", "profile_says"]

# Profiles are a few kilobytes, of printers a few hundred; more is no profile of a texture.
_LARGEST = 4 * 1024 * 1024
# Difference in linear light, 0 to 1, below which two curves are one: profiles tabulate their curves roughly.
_ALIKE = 0.012
_RAMP = np.linspace(0.05, 0.95, 19)
# Colours of middling strength, inside every common gamut, sRGB-encoded.
_PATCHES = np.array([(0.7, 0.4, 0.35), (0.35, 0.65, 0.4), (0.35, 0.4, 0.7), (0.6, 0.6, 0.35)])
_FULL = 65535.0
_MAX_TAGS = 256


def inflate_profile(body: bytes) -> bytes | None:
    """The profile in a PNG's iCCP chunk: a name, a zero, a zero for zlib, then the data (W3C PNG, 11.3.2.3).

    None where it is damaged or larger than 4 MiB.
    """
    _, _, rest = body.partition(b"\0")
    try:
        profile = zlib.decompressobj().decompress(rest[1:], _LARGEST + 1)
    except zlib.error:
        return None
    return profile if 128 <= len(profile) <= _LARGEST else None


@lru_cache(maxsize=256)
def profile_says(profile: bytes) -> str:
    """ "srgb" for the curve and primaries of IEC 61966-2-1, "linear" for numbers in proportion to light, else "other".

    profile: an ICC profile of a grey or RGB picture; what cannot be read is "other". Measured with Little CMS, which
    turns a grey ramp and four colours into linear light of BT.709.
    """
    kind = profile[16:20]
    if kind not in (b"RGB ", b"GRAY"):
        return "other"
    try:
        ramp = _in_light(profile, kind, np.repeat(_RAMP[:, None], 3, axis=1))
        patches = _in_light(profile, kind, _PATCHES) if kind == b"RGB " else None
    except (imagecodecs.CmsError, ValueError, RuntimeError):
        return "other"
    for word, curve in (("srgb", decode_srgb), ("linear", lambda values: values)):
        if float(np.abs(ramp[:, 0] - curve(_RAMP)).max()) > _ALIKE:
            continue
        if patches is None or float(np.abs(patches - curve(_PATCHES)).max()) < 3 * _ALIKE:
            return word
    return "other"


@lru_cache(maxsize=256)
def profile_primaries(profile: bytes) -> tuple[float, ...] | None:
    """x and y of red, green, blue and white of an RGB profile of matrix and curves; None for others.

    Its columns rXYZ, gXYZ and bXYZ are adapted to the white D50; the chad tag tells from which white (ICC.1:2022,
    9.2.15, 9.2.31, 9.2.40). Where it says sRGB, measured, they are those of BT.709 to the digit.
    """
    if profile[16:20] != b"RGB " or len(profile) < 132:
        return None
    if profile_says(profile) == "srgb":
        return REC709
    tags = _tags_of(profile)
    columns = [_fixed(tags.get(name, b""), 3) for name in (b"rXYZ", b"gXYZ", b"bXYZ")]
    if any(one is None for one in columns):
        return None
    matrix = np.array(columns).T
    adapted = _fixed(tags.get(b"chad", b""), 9)
    try:
        if adapted is not None:
            matrix = np.linalg.inv(adapted.reshape(3, 3)) @ matrix
    except np.linalg.LinAlgError:
        return None
    points = np.column_stack([matrix, matrix.sum(axis=1)])
    if not np.isfinite(points).all() or float(np.abs(points.sum(axis=0)).min()) < 1e-6:
        return None
    return tuple(float(value) for point in (points / points.sum(axis=0)).T for value in point[:2])


def _tags_of(profile: bytes) -> dict[bytes, bytes]:
    """The bodies of a profile's tags by signature; those that lie outside it are left out (ICC.1:2022, 7.3)."""
    count = min(struct.unpack(">I", profile[128:132])[0], _MAX_TAGS)
    tags = {}
    for at in range(132, 132 + 12 * count, 12):
        if at + 12 > len(profile):
            break
        signature, offset, size = struct.unpack(">4sII", profile[at : at + 12])
        if offset + size <= len(profile):
            tags[signature] = profile[offset : offset + size]
    return tags


def _fixed(body: bytes, count: int) -> np.ndarray | None:
    """Numbers of an XYZ or sf32 tag: 16 bits before and 16 behind the point, after 8 bytes of head."""
    if body[:4] not in (b"XYZ ", b"sf32") or len(body) < 8 + 4 * count:
        return None
    return np.frombuffer(body, ">i4", count, 8) / 65536.0


@lru_cache(maxsize=1)
def _light() -> bytes:
    return imagecodecs.cms_profile(
        "rgb", whitepoint=[0.3127, 0.3290, 1.0], gamma=1.0,
        primaries=[0.64, 0.33, 1.0, 0.30, 0.60, 1.0, 0.15, 0.06, 1.0],
    )  # fmt: skip


def _in_light(profile: bytes, kind: bytes, colours: np.ndarray) -> np.ndarray:
    """Linear light of colours, shape (n, 3), 0 to 1."""
    stored = np.round(colours * _FULL).astype(np.uint16)[None]
    if kind == b"GRAY":
        stored = np.ascontiguousarray(stored[:, :, 0])
    linear = imagecodecs.cms_transform(
        stored, profile, _light(), colorspace="rgb" if kind == b"RGB " else "gray", outcolorspace="rgb",
        outdtype="uint16",
    )  # fmt: skip
    return np.asarray(linear).reshape(-1, 3) / _FULL
