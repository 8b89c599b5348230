"""Containers in and out, header-only probing, limits."""

from texel.files.exr import Layer
from texel.files.limits import DEFAULT_LIMITS, Limits
from texel.files.probing import KINDS, READABLE, Probe, probe
from texel.files.reading import read
from texel.files.writing import WRITABLE, encode, write

__all__ = [
    "DEFAULT_LIMITS",
    "KINDS",
    "READABLE",
    "WRITABLE",
    "Layer",
    "Limits",
    "Probe",
    "encode",
    "probe",
    "read",
    "write",
]
