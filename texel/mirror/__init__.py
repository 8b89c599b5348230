"""The mirror: a stand-in importer that reads a delivered folder with an engine's habits, and differs loudly."""

from texel.mirror.habits import EngineHabits, builtin_mirrors, mirror_named, parse_mirror
from texel.mirror.reflect import Reflection, reflect

__all__ = ["EngineHabits", "Reflection", "builtin_mirrors", "mirror_named", "parse_mirror", "reflect"]
