"""How a step kind is declared: one declaration and one function, side by side."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

from ..faults import Missing
from ..footage import Materials
from ..params import Described, Number, Param
from ..picture import Size
from ..timing import Moment

Takes = Literal["picture", "matte", "either"]
Family = Literal[
    "Sources", "Tone and colour", "Blur and sharpen", "Mattes", "Space", "Light and surface",
    "Print and screen", "Combine", "Time",
]  # fmt: skip

MIX = Number(
    name="mix",
    default=1.0,
    slider=(0, 1),
    allowed=(0, 1),
    help="Weight of this step against what came in.",
)
"""Every step that takes a main input has this from the engine."""


@dataclass(frozen=True)
class TapKind:
    """Another input of a step, besides its lane's picture so far."""

    name: str
    takes: Takes
    help: str = ""
    optional: bool = False

    @property
    def title(self) -> str:
        """The name on screen."""
        return self.name.replace("_", " ")


@dataclass(frozen=True)
class Call:
    """What a step's function gets: inputs, resolved values, frame size and moment.

    ``eight`` says that the result is only looked at in 8 bits; a step that gains by that may
    then give 8-bit RGB (H, W, 3). ``previous`` is the step's own result one frame earlier, for
    steps that go on from it. Played ``backwards``, ``moment`` runs from the last frame to the first.
    """

    @property
    def running(self) -> Moment:
        """The moment by the clock of the edit, which never runs backwards: footage goes by it."""
        if not self.backwards:
            return self.moment
        return self.moment.at(self.moment.length - 1 - self.moment.frame)

    values: Mapping[str, Any]
    size: Size
    moment: Moment
    taps: Mapping[str, Any] = field(default_factory=dict)
    input: Any = None
    eight: bool = False
    materials: Materials = field(default_factory=Materials)
    previous: Any = None
    series: tuple[Any, ...] = ()
    backwards: bool = False

    @property
    def main(self) -> Any:
        """The lane's picture so far."""
        assert self.input is not None
        return self.input


Compute = Callable[[Call], Any]


@dataclass(frozen=True)
class StepKind(Described):
    """A kind of step: its words, its values, its inputs, and what computes it."""

    kind: str = ""
    label: str = ""
    family: Family = "Sources"
    sentence: str = ""
    words: tuple[str, ...] = ()
    main: Takes | None = None
    gives: Literal["picture", "matte", "same"] = "picture"
    taps: tuple[TapKind, ...] = ()
    source: str = ""
    fresh: Mapping[str, Any] = field(default_factory=dict)
    matte_when: Callable[[Mapping[str, Any]], bool] | None = None
    needs: Callable[[Mapping[str, Any]], set[str]] | None = None
    reads: Callable[[Call], Hashable] | None = None
    takes_eight: frozenset[str] = frozenset()
    gives_eight: bool = False
    goes_on: Callable[[Call], bool] | None = None
    frames: Callable[[Call], Sequence[int]] | None = None
    merge: Callable[[Mapping[str, Any], Mapping[str, Any]], Mapping[str, Any] | None] | None = None
    rowwise: bool = False
    compute: Compute = lambda call: call.main

    def tap(self, name: str) -> TapKind | None:
        return next((tap for tap in self.taps if tap.name == name), None)

    @cached_property
    def settled(self) -> Mapping[str, Any]:
        """What each parameter comes to where a step says nothing of it, checked."""
        return {param.name: param.check(param.default, param.title) for param in self.params}

    def describe(self) -> dict[str, Any]:
        """Everything an interface has to know, as plain JSON."""
        return {
            "kind": self.kind,
            "label": self.label,
            "family": self.family,
            "sentence": self.sentence,
            "words": list(self.words),
            "main": self.main,
            "gives": self.gives,
            "taps": [
                {"name": t.name, "takes": t.takes, "help": t.help, "optional": t.optional}
                for t in self.taps
            ],
            "values": [param.describe() for param in self.params],
            "source": self.source,
            "definition": inspect.getdoc(self.compute) or "",
        }


_KINDS: dict[str, StepKind] = {}


def step(
    kind: str,
    *,
    label: str,
    family: Family,
    sentence: str,
    params: tuple[Param, ...] = (),
    words: tuple[str, ...] = (),
    main: Takes | None = None,
    gives: Literal["picture", "matte", "same"] = "picture",
    taps: tuple[TapKind, ...] = (),
    source: str = "",
    fresh: Mapping[str, Any] | None = None,
    matte_when: Callable[[Mapping[str, Any]], bool] | None = None,
    needs: Callable[[Mapping[str, Any]], set[str]] | None = None,
    reads: Callable[[Call], Hashable] | None = None,
    takes_eight: tuple[str, ...] = (),
    gives_eight: bool = False,
    goes_on: Callable[[Call], bool] | None = None,
    frames: Callable[[Call], Sequence[int]] | None = None,
    merge: Callable[[Mapping[str, Any], Mapping[str, Any]], Mapping[str, Any] | None] | None = None,
    rowwise: bool = False,
) -> Callable[[Compute], Compute]:
    """Declare the decorated function as a step kind.

    Parameters
    ----------
    matte_when : function of the values as the document has them, optional
        Whether it gives a matte at these, where that depends on them.
    needs : function of the resolved values, optional
        Which inputs (tap names, and ``"main"``) the result depends on at these values; all of
        them by default. What is not needed is not computed.
    reads : function of the call (without inputs), optional
        What the result depends on beyond values, inputs and size: a moment, a frame of footage.
        Steps without it have one result for all frames while nothing they take in moves.
    takes_eight : tuple of str
        Inputs (tap names, and ``"main"``) that it takes as 8-bit RGB too, where they are that.
    gives_eight : bool
        Whether it can give 8-bit RGB where only that is wanted; see :class:`Call`.
    goes_on : function of the call (without inputs), optional
        Whether this frame goes on from the step's own result one frame earlier. The engine then
        runs up from the last frame that does not, and keeps the results on the way.
    frames : function of the call (without inputs), optional
        Which frames of its main input it reads; this one by default. The first is the main
        input; all are in ``Call.series``.
    merge : function of the values above and its own, optional
        Where it stands right under another step of its kind: the values that do the work of
        both at once, or None where that cannot be.
    rowwise : bool
        Whether each row of the result comes of the same row of the inputs alone, wherever it
        lies, so that the function may be given any run of rows. Such neighbours share a pass.
    fresh : mapping, optional
        Values a newly added step starts with, where they differ from the defaults.
    """

    def declare(compute: Compute) -> Compute:
        assert kind not in _KINDS, kind
        _KINDS[kind] = StepKind(
            params=params, kind=kind, label=label, family=family, sentence=sentence, words=words,
            main=main, gives=gives, taps=taps, source=source, fresh=fresh or {},
            matte_when=matte_when, needs=needs, reads=reads, takes_eight=frozenset(takes_eight), gives_eight=gives_eight,
            goes_on=goes_on, frames=frames, merge=merge, rowwise=rowwise, compute=compute,
        )  # fmt: skip
        return compute

    return declare


def step_kind(kind: str) -> StepKind:
    """The step kind of that name.

    Raises
    ------
    Missing
        If there is none.
    """
    found = _KINDS.get(kind)
    if found is None:
        raise Missing(
            f"There is no step of the kind “{kind}”. “pale-static steps” lists the ones there are."
        )
    return found


def step_kinds() -> tuple[StepKind, ...]:
    """All step kinds, in the order of their families and declarations."""
    return tuple(_KINDS.values())
