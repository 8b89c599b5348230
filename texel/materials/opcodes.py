"""The steps of the compiled loops, by number; see texel.materials.loops, which is slow to load."""

# UNIT: a part of a vector by its length, 0 of one without length; UNIT_Z: 1 then. GREATER: 1 where a is above b.
(
    ADD, SUBTRACT, MULTIPLY, DIVIDE, MIX, POWER, CLAMP, MINIMUM, MAXIMUM, ABSOLUTE, ROOT, FRACTION, SINE,
    LEVELS, SMOOTH, CHOOSE, LENGTH, UNIT, UNIT_Z, GREATER,
) = range(20)  # fmt: skip
