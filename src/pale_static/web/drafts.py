"""Endpoints that the Bench and the Reel share: the current draft, undo and redo, history, stages."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import Blueprint
from pydantic import BaseModel, Field

from ..store import drafts
from ..store.drafts import Draft, Kind
from .endpoint import Method, Wire, endpoint
from .studio import studio


class Base(Wire):
    """The revision that a request starts from."""

    base: int


class RevisionView(Wire):
    id: int
    words: str
    stage: str | None
    made: str
    head: bool


class History(Wire):
    revisions: list[RevisionView]


class GoTo(Wire):
    revision: int


class Stage(Wire):
    name: str = Field(min_length=1, max_length=120)


def serve_drafts(
    views: Blueprint, kind: Kind, path: str, answer: type[BaseModel],
    view: Callable[[Draft], BaseModel],
) -> None:  # fmt: skip
    """Declare the endpoints of one kind of draft.

    Parameters
    ----------
    path : str
        The address of all drafts of that kind.
    answer : type
        The model of a draft's answer; ``view`` makes it.
    """

    def declare(method: Method, rest: str, name: str, **more: Any) -> Callable[[Any], Any]:
        def put(function: Any) -> Any:
            function.__name__ = name
            return endpoint(views, method, f"{path}/<int:number>{rest}", **more)(function)

        return put

    @declare("GET", "", f"get_{kind}", answer=answer)
    def get(number: int) -> BaseModel:
        """A draft at its current revision."""
        return view(drafts.get(studio().library.db, kind, number))

    @declare("POST", "/undo", f"undo_{kind}", body=Base, answer=answer)
    def undo(number: int, body: Base) -> BaseModel:
        """One change back from a revision."""
        return view(drafts.undo(studio().library.db, kind, number, body.base))

    @declare("POST", "/redo", f"redo_{kind}", body=Base, answer=answer)
    def redo(number: int, body: Base) -> BaseModel:
        """One change forward from a revision."""
        return view(drafts.redo(studio().library.db, kind, number, body.base))

    @declare("POST", "/go", f"go_{kind}", body=GoTo, answer=answer)
    def go(number: int, body: GoTo) -> BaseModel:
        """Back to an earlier revision, as a new change."""
        db = studio().library.db
        draft = drafts.get(db, kind, number)
        revision = drafts.revision(db, number, body.revision)
        words = f"Back to “{revision.stage or revision.words}”"
        return view(drafts.record(db, draft, draft.head.id, words, revision.document))

    @declare("GET", "/history", f"{kind}_history", answer=History)
    def history(number: int) -> History:
        """All accepted changes in words, newest first."""
        return _history(drafts.get(studio().library.db, kind, number))

    @declare("POST", "/stages", f"keep_{kind}_stage", body=Stage, answer=History)
    def keep_stage(number: int, body: Stage) -> History:
        """Name the newest revision, so that a person can find it again."""
        db = studio().library.db
        draft = drafts.get(db, kind, number)
        drafts.keep_stage(db, number, draft.head.id, body.name)
        return _history(draft)


def _history(draft: Draft) -> History:
    found = drafts.history(studio().library.db, draft.id)
    return History(
        revisions=[
            RevisionView(
                id=r.id, words=r.words, stage=r.stage, made=r.made, head=r.id == draft.head.id
            )
            for r in found
        ]
    )
