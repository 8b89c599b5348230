"""The fifteen surfaces of the demo. Each function gives a Surface of n x n texels; the same seed, the same texels."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from demo.patterns import Field, blur, cells, grid, mix, noise, ramp, smoothstep, tint, warp, wave

__all__ = ["SURFACES", "Surface", "occlusion_of"]


@dataclass
class Surface:
    """height, roughness, metallic, opacity: 0 to 1. colour, emissive: sRGB, 0 to 1. relief: height in texels."""

    height: Field
    colour: NDArray[np.float32]
    roughness: Field
    metallic: Field | float = 0.0
    relief: float = 24.0
    opacity: Field | None = None
    emissive: NDArray[np.float32] | None = None

    @property
    def occlusion(self) -> Field:
        return occlusion_of(self.height, self.relief)


def occlusion_of(height: Field, relief: float) -> Field:
    """How open each place is: how far it lies below its blurred surroundings, at three widths."""
    n = height.shape[0]
    depth = np.zeros_like(height)
    for share in (0.006, 0.02, 0.06):
        depth += np.maximum(0, blur(height, share * n) - height)
    return np.clip(1 - depth * min(2.2, relief / 12), 0.05, 1).astype(np.float32)


def deck_tread_plate(n: int) -> Surface:
    """Painted steel with raised lozenges in two directions, worn to bare metal on top."""
    x, y = grid(n)
    across = 8
    u, v = x * across, y * across
    odd = (np.floor(u) + np.floor(v)) % 2
    cu, cv = (u % 1) - 0.5, (v % 1) - 0.5
    along, aside = np.where(odd > 0, cu + cv, cu - cv), np.where(odd > 0, cu - cv, cu + cv)
    lozenge = smoothstep(1.0, 0.55, (along / 0.62) ** 2 + (aside / 0.17) ** 2)
    fine, broad = noise(n, 11, 1.0, 8), noise(n, 12, 1.8, 2)
    worn = smoothstep(0.45, 0.75, lozenge * 0.8 + fine * 0.35 + broad * 0.2 - 0.2)
    rust = smoothstep(0.62, 0.8, broad + fine * 0.15) * (1 - lozenge)
    paint = tint("#3f5a56", "#54726b")(broad)
    colour = mix(mix(paint, tint("#b9bcbb", "#d6d7d3")(fine), worn), tint("#6b3d22", "#8d5a31")(fine), rust)
    rough = mix(mix(0.55 + 0.15 * fine, 0.28 + 0.2 * fine, worn), 0.85 + 0.1 * fine, rust)
    height = 0.15 + 0.75 * lozenge + 0.04 * fine - 0.03 * worn
    return Surface(height, colour, rough, smoothstep(0.4, 0.6, worn * (1 - rust)), 20)


def riveted_hull_plate(n: int) -> Surface:
    """Overlapping plates with rows of rivets, red oxide paint, streaks of salt."""
    x, y = grid(n)
    plate_v = y * 3
    seam = smoothstep(0.0, 0.05, plate_v % 1) * smoothstep(1.0, 0.93, plate_v % 1)
    shift = np.floor(plate_v) * 0.5
    plate_u = x * 2 + shift
    joint = smoothstep(0.0, 0.015, ramp(plate_u))
    ru, rv = (x * 24) % 1 - 0.5, ((plate_v % 1) - 0.11) * 8
    rivets = smoothstep(0.16, 0.05, ru**2 + rv**2)
    broad, fine = noise(n, 21, 1.7, 2), noise(n, 22, 0.9, 12)
    streak = noise(n, 23, 1.3, 2, (1, 0.08))
    salt = smoothstep(0.6, 0.95, streak * 0.8 + 0.3 * fine)
    colour = tint("#5e2a22", "#7d382b", "#8f4a38")(0.6 * broad + 0.4 * fine)
    colour = mix(colour, tint("#b9afa3", "#d8d2c8")(fine), salt * 0.7)
    chipped = smoothstep(0.78, 0.86, fine * 0.5 + broad * 0.5 + rivets * 0.12)
    colour = mix(colour, tint("#b4b6b8", "#cfd1d1")(fine), chipped)
    height = 0.35 + 0.2 * seam * joint + 0.4 * rivets + 0.05 * broad + 0.02 * fine
    return Surface(height, colour, mix(0.5 + 0.25 * fine + 0.15 * salt, 0.32, chipped), chipped, 26)


def mooring_rope(n: int) -> Surface:
    """Three-strand hemp rope, laid side by side."""
    x, y = grid(n)
    u = x * 4
    lay = u % 1 - 0.5
    round_rope = np.sqrt(np.maximum(0, 1 - (lay * 2) ** 2))
    twist = y * 8 + lay * 1.6 + np.floor(u) * 0.25
    strand = np.sqrt(np.clip(1 - ((twist % 1) * 2 - 1) ** 2, 0, 1))
    # The fibres run across the lay of the strands.
    fibre = wave(twist * 9 - x * 72) * 0.5 + 0.5 * noise(n, 31, 0.8, 20)
    height = np.clip(0.05 + round_rope * (0.5 + 0.35 * strand) + 0.08 * fibre * round_rope, 0, 1)
    colour = tint("#6d5534", "#a58a5c", "#cdb788")(
        0.45 * strand * round_rope + 0.35 * fibre + 0.2 * noise(n, 32, 1.6, 2)
    )
    return Surface(height.astype(np.float32), colour, 0.78 + 0.18 * fibre, 0.0, 40)


def tidal_mud(n: int) -> Surface:
    """Wet rippled mud with worm casts and a film of water in the hollows."""
    _, y = grid(n)
    broad, mid, fine = noise(n, 41, 2.2, 1), noise(n, 42, 1.6, 4), noise(n, 43, 0.9, 16)
    ripples = wave(y * 14 + 1.3 * broad + 0.35 * mid) ** 1.4
    first, _, value = cells(n, 9, 44)
    casts = smoothstep(0.22, 0.05, first) * (value > 0.55)
    coil = casts * (0.6 + 0.4 * wave(first * 14))
    height = np.clip(0.25 + 0.35 * ripples * (0.5 + 0.5 * mid) + 0.2 * broad + 0.04 * fine + 0.3 * coil, 0, 1)
    water = smoothstep(0.44, 0.34, height)
    colour = mix(
        tint("#4b4034", "#6d5e4a", "#857459")(0.7 * height + 0.3 * fine), np.float32([0.2, 0.19, 0.15]), water * 0.6
    )
    rough = mix(0.55 + 0.25 * fine, 0.06 + 0.04 * fine, water)
    return Surface(mix(height, np.float32(0.37), water * 0.9), colour, rough, 0.0, 30)


def reed_bed(n: int) -> Surface:
    """Flattened reeds, long stalks over each other."""
    layers, hue = np.zeros((n, n), np.float32), np.zeros((n, n), np.float32)
    x, y = grid(n)
    for index in range(5):
        lean = (index - 2) * 1.0
        u = x * 18 + y * lean + index * 0.37
        bend = 0.25 * wave(y * 1 + index * 0.3)
        stalk = np.sqrt(np.clip(1 - (((u + bend) % 1 - 0.5) / 0.33) ** 2, 0, 1))
        lift = 0.35 + 0.65 * warp(noise(n, 50 + index, 1.6, 2, (1, 0.1)), 0 * x, 0 * x)
        level = stalk * lift * (0.6 + 0.1 * index)
        number = noise(n, 60 + index, 0.6, 9, (1, 0.08))
        hue = np.where(level > layers, number, hue)
        layers = np.maximum(layers, level)
    fibre = noise(n, 56, 0.9, 12, (1, 0.06))
    colour = tint("#5f5a2c", "#94894a", "#b9a86a", "#d3c796")(0.55 * hue + 0.25 * fibre + 0.25 * layers)
    height = np.clip(layers * 0.85 + 0.05 * fibre, 0, 1)
    return Surface(height, colour, 0.62 + 0.25 * fibre, 0.0, 34)


def slate_pier(n: int) -> Surface:
    """Split slate slabs in courses, blue-grey, with moss in the joints."""
    x, y = grid(n)
    course = y * 4
    u = x * 2 + np.floor(course) * 0.43
    u = np.where(np.floor(course) % 2 > 0, x * 3 + 0.2, u)
    wobble = (noise(n, 61, 1.6, 4) - 0.5) * 0.05
    joint = np.minimum(ramp(u + wobble) / np.where(np.floor(course) % 2 > 0, 3, 2) * 4, ramp(course + wobble))
    slab = smoothstep(0.02, 0.075, joint)
    number = (np.floor(u + wobble) * 0.37 + np.floor(course + wobble) * 0.61) % 1
    split = np.floor(noise(n, 62, 2.0, 2, (0.6, 1)) * 6) / 6
    fine, mid = noise(n, 63, 1.0, 10), noise(n, 64, 1.6, 3)
    moss = (1 - slab) * smoothstep(0.35, 0.6, mid)
    height = slab * (0.5 + 0.12 * number + 0.22 * split + 0.06 * fine) + 0.3 * moss + 0.08 * fine
    colour = mix(
        tint("#3d464e", "#56616a", "#737a7d")(0.4 * number + 0.3 * split + 0.3 * fine),
        np.float32([0.28, 0.26, 0.22]),
        1 - slab,
    )
    colour = mix(colour, tint("#3c4a22", "#66752f")(fine), moss)
    return Surface(np.clip(height, 0, 1), colour, mix(0.5 + 0.3 * fine - 0.12 * split, 0.95, moss), 0.0, 26)


def oyster_shell_gravel(n: int) -> Surface:
    """Broken oyster shells, chalky and pearly, in grey grit."""
    height, colour = np.zeros((n, n), np.float32), np.zeros((n, n, 3), np.float32)
    fine = noise(n, 71, 0.8, 16)
    colour[:] = tint("#6f675c", "#8d8475")(fine)
    pearl = np.zeros((n, n), np.float32)
    for index, across in enumerate((22, 13, 9)):
        first, second, value = cells(n, across, 72 + index)
        edge = smoothstep(0.04, 0.2, second - first)
        dome = edge * (1 - 0.75 * first**2) * (0.45 + 0.3 * index / 2 + 0.25 * value)
        rings = wave(first * 7 + value * 3)
        shown = (dome > height) & (value > 0.25)
        shell = tint("#8c8377", "#c9bfae", "#ece4d6")(0.5 * value + 0.25 * rings + 0.25 * fine)
        colour = np.where(shown[..., None], shell, colour)
        pearl = np.where(shown, (value > 0.72).astype(np.float32), pearl)
        height = np.where(shown, dome * (0.94 + 0.06 * rings), height)
    return Surface(np.clip(height + 0.04 * fine, 0, 1), colour, mix(0.7 + 0.2 * fine, 0.3, pearl * 0.8), 0.0, 40)


def brass_bell(n: int) -> Surface:
    """Turned brass with engraved bands and verdigris in the grooves."""
    x, y = grid(n)
    lathe = noise(n, 81, 0.8, 24, (0.03, 1))
    broad, fine = noise(n, 82, 1.8, 2), noise(n, 83, 1.0, 12)
    bands = smoothstep(0.06, 0.02, np.abs(((y * 4) % 1) - 0.5)) + smoothstep(0.03, 0.01, np.abs(((y * 4) % 1) - 0.36))
    rope = wave(x * 26 + y * 52) * smoothstep(0.1, 0.07, np.abs(((y * 2) % 1) - 0.1))
    groove = np.clip(bands, 0, 1)
    height = 0.6 - 0.3 * groove + 0.18 * rope + 0.05 * lathe + 0.03 * broad
    green = smoothstep(0.55, 0.8, groove * 0.5 + broad * 0.4 + fine * 0.25)
    colour = mix(
        tint("#c99f4a", "#e0bd6b", "#edd08a")(0.5 * lathe + 0.5 * broad), tint("#4f7f6b", "#79a68e")(fine), green
    )
    return Surface(np.clip(height, 0, 1), colour, mix(0.2 + 0.18 * lathe + 0.1 * broad, 0.8, green), 1 - green, 18)


def cork_fender(n: int) -> Surface:
    """Pressed cork granules."""
    first, second, value = cells(n, 26, 91)
    _, small_second, small = cells(n, 60, 92)
    gap = smoothstep(0.0, 0.16, second - first)
    fine = noise(n, 93, 0.8, 20)
    pits = smoothstep(0.3, 0.15, small_second) * (small > 0.6)
    height = gap * (0.55 + 0.3 * value) - 0.25 * pits + 0.08 * fine
    colour = mix(tint("#4a2f1c", "#5b3b23")(fine), tint("#9a6b3f", "#b98a58", "#d2a874")(0.7 * value + 0.3 * fine), gap)
    return Surface(np.clip(height, 0, 1), colour, 0.82 + 0.15 * fine, 0.0, 18)


def glazed_wall_tile(n: int) -> Surface:
    """Glazed tiles in two greens with crazing, grouted."""
    x, y = grid(n)
    u, v = x * 6, y * 6
    du, dv = np.abs(u % 1 - 0.5), np.abs(v % 1 - 0.5)
    border = np.maximum(du, dv)
    tile = smoothstep(0.475, 0.435, border)
    number = (np.floor(u) * 0.618 + np.floor(v) * 0.414) % 1
    broad, fine = noise(n, 101, 2.0, 2), noise(n, 102, 0.9, 20)
    first, second, _ = cells(n, 40, 103)
    craze = smoothstep(0.045, 0.0, second - first) * tile * (number > 0.35)
    motif = smoothstep(0.02, 0.0, np.abs(np.sqrt((u % 1 - 0.5) ** 2 + (v % 1 - 0.5) ** 2) - 0.27)) * tile
    glaze = tint("#2f6b5a", "#4f927a", "#a9c7ad")(0.75 * number + 0.25 * broad)
    colour = mix(tint("#a49b8b", "#bcb3a2")(fine), mix(glaze, np.float32([0.93, 0.9, 0.8]), motif * 0.8), tile)
    colour = mix(colour, np.float32([0.2, 0.25, 0.21]), craze * 0.55)
    pillow = np.clip(1 - (border / 0.47) ** 6, 0, 1)
    height = (
        tile * (0.55 + 0.25 * pillow + 0.06 * broad) + (1 - tile) * (0.2 + 0.1 * fine) - 0.02 * craze + 0.03 * motif
    )
    return Surface(
        np.clip(height, 0, 1), colour, mix(0.85 + 0.1 * fine, 0.12 + 0.05 * broad + 0.2 * craze, tile), 0.0, 22
    )


def lichen_bark(n: int) -> Surface:
    """Furrowed pear-tree bark with rosettes of lichen."""
    broad = noise(n, 111, 1.9, 2, (1, 0.35))
    bend = (noise(n, 112, 2.0, 2) - 0.5) * n * 0.12
    first, second, value = cells(n, 14, 113)
    plates = warp(smoothstep(0.02, 0.3, second - first), bend, bend * 2)
    number = warp(value, bend, bend * 2)
    fine = noise(n, 114, 1.1, 10, (1, 0.4))
    height = plates * (0.45 + 0.25 * number) + 0.2 * broad + 0.1 * fine
    spot, _, which = cells(n, 6, 115)
    edge = noise(n, 116, 1.3, 6)
    lichen = smoothstep(0.42, 0.34, spot + 0.3 * edge) * (which > 0.5) * smoothstep(0.25, 0.5, height)
    colour = tint("#2e251d", "#5a4a3b", "#85735d")(np.clip(height * 0.9 + 0.2 * fine, 0, 1))
    colour = mix(colour, tint("#8e9b6a", "#b9c08d", "#cfd3ae")(0.6 * edge + 0.4 * wave(spot * 9)), lichen * 0.9)
    return Surface(np.clip(height + 0.05 * lichen * edge, 0, 1), colour, 0.8 + 0.15 * fine, 0.0, 44)


def pear_leaf_card(n: int) -> Surface:
    """Sprigs of pear leaves on a cut-out card."""
    height, mask = np.zeros((n, n), np.float32), np.zeros((n, n), np.float32)
    colour = np.zeros((n, n, 3), np.float32) + np.float32([0.23, 0.3, 0.12])
    x, y = grid(n)
    fine = noise(n, 121, 1.0, 8)
    rng = np.random.default_rng(122)
    stem = smoothstep(0.012, 0.006, np.abs(x - 0.5 - 0.05 * np.sin(y * 5))) * (y > 0.08)
    mask, height = np.maximum(mask, stem), np.maximum(height, stem * 0.4)
    colour = mix(colour, np.float32([0.42, 0.3, 0.18]), stem)
    for index in range(11):
        at = 0.9 - index * 0.075
        side = 1 if index % 2 else -1
        angle = side * (0.9 + 0.25 * rng.random()) if index < 10 else 0.0
        length, wide = 0.3 - 0.006 * index, 0.115
        cx, cy = 0.5 + 0.05 * np.sin(at * 5), at
        along = (x - cx) * np.sin(angle) - (y - cy) * np.cos(angle)
        aside = (x - cx) * np.cos(angle) + (y - cy) * np.sin(angle)
        t = along / length
        profile = wide * np.clip(t, 0, 1) ** 0.55 * np.clip(1 - t, 0, 1) ** 0.75 * 1.55
        leaf = ((np.abs(aside) < profile) & (t > 0) & (t < 1)).astype(np.float32)
        leaf = smoothstep(0.35, 0.65, blur(leaf, max(0.8, n / 700)))
        vein = smoothstep(0.004, 0.0015, np.abs(aside)) + 0.5 * smoothstep(
            0.1, 0.02, np.abs(((along - np.abs(aside) * 0.9) * 32) % 1 - 0.5)
        )
        bulge = 1 - (aside / np.maximum(profile, 1e-3)) ** 2
        shade = tint("#35531f", "#557a2c", "#86a544")(
            np.clip(0.25 + 0.5 * fine + 0.2 * rng.random() + 0.15 * vein, 0, 1)
        )
        colour = np.where((leaf > 0.5)[..., None], shade, colour)
        height = np.where(
            leaf > 0.5, np.clip(0.35 + 0.04 * index + 0.25 * bulge + 0.06 * np.clip(vein, 0, 1), 0, 1), height
        )
        mask = np.maximum(mask, leaf)
    return Surface(height.astype(np.float32), colour, 0.42 + 0.25 * fine, 0.0, 14, opacity=mask.astype(np.float32))


def lantern_glass(n: int) -> Surface:
    """Leaded panes lit from behind."""
    x, y = grid(n)
    u, v = (x + y) * 4, (x - y) * 4
    border = np.minimum(ramp(u), ramp(v))
    pane = smoothstep(0.07, 0.13, border)
    # Four panes along a side: whole steps of 1/8 in both directions keep the hues together at the border.
    number = (np.floor(u) * 0.625 + np.floor(v) * 0.375) % 1
    broad, fine = noise(n, 131, 2.0, 2), noise(n, 132, 1.2, 8)
    bubble, _, which = cells(n, 26, 133)
    bubbles = smoothstep(0.2, 0.12, bubble) * (which > 0.7) * pane
    hue = tint("#c9822e", "#e0ad4c", "#b8542c", "#e8cf7e")(number)
    colour = mix(tint("#a9abae", "#c4c6c8")(fine), hue, pane)
    glow = hue * (pane * (0.55 + 0.45 * broad) * (1 - 0.4 * bubbles))[..., None]
    height = mix(0.75 + 0.1 * fine, 0.3 + 0.12 * broad + 0.1 * bubbles, pane)
    return Surface(
        height, colour, mix(0.6 + 0.2 * fine, 0.07 + 0.1 * fine, pane), 1 - pane, 16, emissive=np.clip(glow, 0, 1)
    )


def beehive_straw(n: int) -> Surface:
    """Coils of straw bound with bramble."""
    x, y = grid(n)
    v = y * 7
    coil = np.sqrt(np.clip(1 - ((v % 1) * 2 - 1) ** 2, 0, 1))
    straw = noise(n, 141, 0.8, 14, (0.05, 1))
    broad = noise(n, 142, 1.8, 2)
    u = x * 14 + np.floor(v) * 0.5 + (v % 1) * 0.7
    binding = np.sqrt(np.clip(1 - (((u % 1) - 0.5) / 0.16) ** 2, 0, 1)) * smoothstep(0.0, 0.25, coil)
    height = coil * (0.55 + 0.18 * straw) + 0.22 * binding
    colour = tint("#8a6a2f", "#c9a455", "#e6cf8d")(0.55 * straw + 0.2 * broad + 0.25 * coil)
    colour = mix(colour, tint("#5d4325", "#8b6a3e")(straw), smoothstep(0.2, 0.6, binding))
    return Surface(np.clip(height, 0, 1), colour, 0.7 + 0.22 * straw, 0.0, 36)


def clay_pot(n: int) -> Surface:
    """Terracotta with throwing lines, lime bloom and a few chips."""
    throwing = noise(n, 151, 1.1, 6, (0.02, 1))
    broad, fine = noise(n, 152, 2.0, 2), noise(n, 153, 0.8, 24)
    bloom = smoothstep(0.6, 0.85, broad * 0.75 + fine * 0.25 + 0.15 * throwing)
    first, _, value = cells(n, 10, 154)
    chip = smoothstep(0.2, 0.12, first + 0.12 * fine) * (value > 0.75)
    height = np.clip(0.55 + 0.3 * (throwing - 0.5) + 0.06 * fine + 0.05 * bloom - 0.25 * chip, 0, 1)
    colour = mix(
        tint("#96492c", "#b5613b", "#c97c50")(0.5 * broad + 0.3 * throwing + 0.2 * fine),
        tint("#cbb7a0", "#e2d6c6")(fine),
        bloom * 0.75,
    )
    colour = mix(colour, np.float32([0.72, 0.38, 0.24]), chip)
    return Surface(height, colour, mix(0.72 + 0.18 * fine, 0.95, bloom), 0.0, 20)


SURFACES = {
    make.__name__: make
    for make in (
        deck_tread_plate, riveted_hull_plate, mooring_rope, tidal_mud, reed_bed, slate_pier, oyster_shell_gravel,
        brass_bell, cork_fender, glazed_wall_tile, lichen_bark, pear_leaf_card, lantern_glass, beehive_straw, clay_pot,
    )
}  # fmt: skip
