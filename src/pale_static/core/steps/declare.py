"""How a step kind is declared: one declaration and one function, side by side."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Literal

from ..document import Effect
from ..faults import Missing
from ..footage import Materials, Nested, Wired
from ..pictures.picture import Size
from ..time.timing import Moment
from ..values.params import Choice, Described, Number

Takes = Literal["picture", "matte", "either"]
Family = Literal[
    "Sources", "Tone and colour", "Blur and sharpen", "Mattes", "Space", "Light and surface",
    "Print and screen", "Combine", "Time", "Macros",
]  # fmt: skip

MIX = Number(
    name="mix",
    default=1.0,
    slider=(0, 1),
    allowed=(0, 1),
    help="Weight of this step against what came in.",
)
"""Every step that takes a main input has this from the engine."""

FORWARD = {"keys": [{"anchor": "share", "time": share, "value": share} for share in (0, 1)]}
"""A fresh value that runs from 0 to 1 over the whole length."""


@dataclass(frozen=True)
class InputKind:
    """An input of a step besides the picture from the step above."""

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
    """The argument of a step's function: inputs, resolved values, frame size and moment.

    ``eight`` says that the result is only looked at in 8 bits; a step that gains by that may
    then give 8-bit RGB (H, W, 3). ``previous`` is the step's own result one frame earlier, for
    steps that go on from it; or, for steps that gather frames, its result of the frames before.
    ``part`` then says which of how many frames is being gathered. Played ``backwards``, ``moment`` runs from the last frame to the first.
    """

    @property
    def running(self) -> Moment:
        """The moment in the edit's time, which never runs backwards. Footage uses it."""
        if not self.backwards:
            return self.moment
        return self.moment.at(self.moment.length - 1 - self.moment.frame)

    values: Mapping[str, Any]
    size: Size
    moment: Moment
    inputs: Mapping[str, Any] = field(default_factory=dict)
    arriving: Any = None
    eight: bool = False
    materials: Materials = field(default_factory=Materials)
    previous: Any = None
    series: tuple[Any, ...] = ()
    backwards: bool = False
    part: tuple[int, int] = (0, 1)

    @property
    def main(self) -> Any:
        """The picture from the step above."""
        assert self.arriving is not None
        return self.arriving


Compute = Callable[[Call], Any]


@dataclass(frozen=True)
class Misplaced:
    """Why a step cannot stand where it does.

    Parameters
    ----------
    sentence : str
    open : bool
        Whether a draft may have it: a step can still be added above this one.
    """

    sentence: str
    open: bool


@dataclass(frozen=True, kw_only=True)
class StepKind(Described):
    """A kind of step: its words, its values, its inputs, and what computes it.

    Called with a function it declares that as what computes the kind: ``@step("invert", …)``
    stands above the function.
    """

    kind: str = field(kw_only=False)
    label: str
    family: Family
    sentence: str
    words: tuple[str, ...] = ()
    main: Takes | None = None
    """What it works on; None for a source, which starts a lane."""
    gives: Literal["picture", "matte", "same"] = "picture"
    inputs: tuple[InputKind, ...] = ()
    source: str = ""
    """Where its definition was published."""
    fresh: Mapping[str, Any] = field(default_factory=dict)
    """Values a newly added step starts with, where they differ from the defaults."""
    matte_when: Callable[[Mapping[str, Any]], bool] | None = None
    """Of the values in the document: whether it gives a matte, for kinds where the values decide that."""
    needs: Callable[[Mapping[str, Any]], set[str]] | None = None
    """Of the resolved values: which inputs (names, and ``"main"``) the result depends on; all by
    default. What is not needed is not computed."""
    reads: Callable[[Call], Hashable] | None = None
    """Of the call without inputs: what the result depends on beyond values, inputs and size, such
    as a moment or a frame of footage. Steps without it have one result for all frames while
    nothing they take in moves."""
    takes_eight: tuple[str, ...] = ()
    """Inputs (names, and ``"main"``) that it takes as 8-bit RGB too, where they are that."""
    gives_eight: bool = False
    """Whether it can give 8-bit RGB where only that is wanted; see :class:`Call`."""
    shows: Callable[[Call], tuple[Nested | Wired, int] | None] | None = None
    """Of the call without inputs: the effect that it shows, and at which of its frames. Where it
    shows one, that effect's result is its own."""
    goes_on: Callable[[Call], bool] | None = None
    """Of the call without inputs: whether this frame goes on from the step's own result one frame
    earlier. The engine runs up from the last frame that does not, or from a state it has kept."""
    frames: Callable[[Call], Sequence[int]] | None = None
    """Of the call without inputs: which frames of its main input it reads; this one by default.
    The first is the main input; all are in ``Call.series``."""
    gathers: bool = False
    """Whether it takes its frames one after the other: called for each with that frame as main and
    ``Call.previous``, its own result so far, so that it never holds them all."""
    merge: Callable[[Mapping[str, Any], Mapping[str, Any]], Mapping[str, Any] | None] | None = None
    """Of the values above and its own, where it stands right under another of its kind: the values
    that do the work of both at once, or None where that cannot be."""
    rowwise: bool = False
    """Whether each row of the result comes of the same row of the inputs alone, wherever it lies,
    so that the function may be given any run of rows. Such neighbours share a pass."""
    holds: str = ""
    """Where it holds steps of its own, which run over their own result: the value that says how
    often. Such a step cannot hold another."""
    runs: Effect | None = None
    """The effect whose result is its own: a macro. Its values are the controls, its inputs fill the
    slots."""
    compute: Compute = lambda call: call.main

    def __call__(self, compute: Compute) -> Compute:
        assert self.kind not in _KINDS, self.kind
        _KINDS[self.kind] = replace(self, compute=compute)
        return compute

    def misplaced(self, first: bool, who: str) -> Misplaced | None:
        """What is wrong with a step of this kind at a place in a lane; None where it may stand.

        Parameters
        ----------
        first : bool
            Whether it stands first in its lane. In a repeat, no step does.
        who : str
            The step, as people know it.
        """
        if self.main is None and not first:
            sentence = f"{who} starts a lane; it cannot follow another step. Add a lane for it."
            return Misplaced(sentence, open=False)
        if self.main is not None and first:
            sentence = (
                f"{who} needs a picture to work on, but stands first in its lane. "
                "Put a source above it."
            )
            return Misplaced(sentence, open=True)
        return None

    def input(self, name: str) -> InputKind | None:
        return next((source for source in self.inputs if source.name == name), None)

    @cached_property
    def settled(self) -> Mapping[str, Any]:
        """The checked default of each parameter, for steps that do not set it."""
        return {param.name: param.check(param.default, param.title) for param in self.params}

    @property
    def choices(self) -> list[str]:
        """The words that its values can be set to, without those that many steps share."""
        found = [param for param in self.params if isinstance(param, Choice)]
        return [option for param in found if param.name != "outside" for option in param.options]

    def describe(self) -> dict[str, Any]:
        """Everything that an interface needs, as plain JSON."""
        return {
            "kind": self.kind,
            "label": self.label,
            "family": self.family,
            "sentence": self.sentence,
            "words": list(self.words),
            "choices": self.choices,
            "holds": self.holds,
            "main": self.main,
            "gives": self.gives,
            "inputs": [
                {"name": t.name, "takes": t.takes, "help": t.help, "optional": t.optional}
                for t in self.inputs
            ],
            "values": [param.describe() for param in self.params],
            "source": self.source,
            "definition": inspect.getdoc(self.compute) or "",
        }


_KINDS: dict[str, StepKind] = {}


step = StepKind
"""What stands above a step's function: see the fields of :class:`StepKind`."""


def step_kind(kind: str) -> StepKind:
    """The step kind of that name.

    Raises
    ------
    Missing
        If there is none.
    """
    declared = _KINDS.get(kind)
    if declared is None:
        raise Missing(
            f"There is no step of the kind “{kind}”. “pale-static steps” lists the ones there are."
        )
    return declared


def step_kinds() -> tuple[StepKind, ...]:
    """All step kinds, in the order of their families and declarations."""
    return tuple(_KINDS.values())
