"""Faults with a plain sentence: what happened, where, and what to do."""

from __future__ import annotations

from typing import Self


class Fault(Exception):
    """Something a person asked for cannot be done as asked.

    Parameters
    ----------
    sentence : str
        What happened, where and what to do, in words for the person at the screen.
    where : str, optional
        The place in the document, as ``lane.step.value`` or a JSON path.

    ``use`` says in which use of a macro it happened, where that is known.
    """

    use: str = ""

    def __init__(self, sentence: str, where: str | None = None) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.where = where

    def told_of(self, name: str, where: str | None) -> Self:
        """The same fault, beginning with the name of the effect or step that raised it."""
        fault = type(self)(f"{name}: {self.sentence}", where)
        fault.use = self.use
        return fault


class OutOfRange(Fault):
    """A value lies outside its allowed range."""


class Missing(Fault):
    """Something that was named does not exist."""


class Clash(Fault):
    """The thing changed meanwhile, or the name is taken."""


class TooLarge(Fault):
    """A file or a picture is larger than is taken."""


class Unreadable(Fault):
    """A file is not what its name promises, or is damaged."""


class Malformed(Fault):
    """What was sent is not of the form that is read here."""


class Busy(Fault):
    """Something else is using what is needed; a moment later it may well be free."""


class NoRoom(Fault):
    """The disk, or the memory set aside, is full."""


class Cancelled(Exception):
    """Work was given up because its result is no longer wanted."""
