"""Schemas of the search over everything."""

from __future__ import annotations

from typing import Literal

from ninja import Schema


class FoundOut(Schema):
    """slug: of its project, "" for what all share. key: its id, or the name of a master or function; of a file and
    a parameter those of the set and the master that it belongs to. detail: what tells it from others. at: the map that
    a file is, the name of a parameter."""

    kind: Literal["set", "cast", "master", "function", "model", "ground", "file", "project", "parameter"]
    name: str
    detail: str
    slug: str
    key: str
    at: str
