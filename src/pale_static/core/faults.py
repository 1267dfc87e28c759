"""Faults with a plain sentence: what happened, where, and what to do."""

from __future__ import annotations

from typing import Self


class Fault(Exception):
    """A request of a person cannot be carried out.

    Parameters
    ----------
    sentence : str
        What happened, where and what to do, in words for the person at the screen.
    where : str, optional
        The place in the document, as ``lane.step.value`` or a JSON path.

    ``use`` names the use of a macro in which it happened, if that is known.
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
    """Someone else made a change meanwhile, or the name is taken."""


class TooLarge(Fault):
    """A file or a picture is larger than the limit."""


class Unreadable(Fault):
    """A file is not what its name promises, or is damaged."""


class Malformed(Fault):
    """A request or a file does not have the expected form."""


class Busy(Fault):
    """Something else is using a file or a process; a moment later it may be free."""


class NoRoom(Fault):
    """The disk, or the memory set aside, is full."""


class Cancelled(Exception):
    """Work was given up because its result is no longer wanted."""
