"""Speak to a studio on another machine: a small client, and the commands ``texel remote``."""

from remote.client import Studio, StudioRefuses

__all__ = ["Studio", "StudioRefuses"]
