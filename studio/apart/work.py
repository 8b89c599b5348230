"""What can be asked of the children, and what comes back."""

from __future__ import annotations

import importlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, NotRequired, TypedDict

from django.http import Http404

from studio.changes.errors import Conflict
from texel.errors import BadDocument, TexelError, ToldError
from texel.wording import Message, MessageDocument

__all__ = ["Apart", "Busy", "Ended", "Made", "Refusal", "apart", "error_of", "find", "refusal", "run_apart_by"]


class Busy(Exception):
    """There is no room for more work now. status: 429 for one person's own share, 503 for everybody's."""

    def __init__(self, status: int, message: str):
        super().__init__(message)
        self.status = status


class Ended(TexelError):
    """The work ended its process, or used more memory or time than it may; the message says which."""


@dataclass(frozen=True)
class Made:
    """data: bytes, of a picture say. said: what belongs to it, as JSON has it."""

    data: bytes = b""
    said: Any = None


class _Runs:
    """Who runs work; in a process that serves nobody, such as a worker's, it is done there."""

    apart: Callable[[str, Mapping[str, object], int, str], Made] | None = None


def run_apart_by(runner: Callable[[str, Mapping[str, object], int, str], Made] | None) -> None:
    """From now on this process has its work done by ``runner``: the web server's pool."""
    _Runs.apart = runner


class Apart:
    """A function that runs in a child process. Its arguments are what JSON has; it reads the database itself."""

    def __init__(self, work: Callable[..., Made]):
        self.work = work
        self.name = f"{work.__module__}:{work.__qualname__}"
        self.__doc__ = work.__doc__

    def ask(self, person: int, near: str = "", **arguments: Any) -> Made:
        """Have it done. person: who waits for it; near: what the same child may still hold in memory.

        Raises what the work raises of TexelError, Conflict and Http404, and Busy and Ended.
        """
        return self.work(**arguments) if _Runs.apart is None else _Runs.apart(self.name, arguments, person, near)


def apart(work: Callable[..., Made]) -> Apart:
    return Apart(work)


def find(name: str) -> Callable[..., Made]:
    """The function behind a name. Raises LookupError for one that is not meant to be run so."""
    module, _, attribute = name.partition(":")
    work = getattr(importlib.import_module(module), attribute, None)
    if not isinstance(work, Apart):
        raise LookupError(name)
    return work.work


class Refusal(TypedDict):
    """How an error travels back to who asked. said: key and values of its message, if it has any."""

    error: str
    message: str
    said: NotRequired[MessageDocument]


def refusal(error: Exception) -> Refusal | None:
    """None for a fault of ours."""
    for kind, name in ((Conflict, "conflict"), (TexelError, "refused")):
        if isinstance(error, kind):
            return {"error": name, "message": str(error), "said": error.message.document()}
    return {"error": "missing", "message": str(error)} if isinstance(error, Http404) else None


def error_of(told: Refusal) -> Exception:
    """The error that travelled so."""
    kinds: dict[str, type[ToldError]] = {"conflict": Conflict, "refused": BadDocument}
    if told["error"] in kinds:
        return kinds[told["error"]].of(Message.of(told["message"], told["said"]))
    return (Http404 if told["error"] == "missing" else RuntimeError)(told["message"])
