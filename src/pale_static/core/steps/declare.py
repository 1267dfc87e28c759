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
    help="How much of this step is mixed with its input.",
)
"""Every step that takes a main input has this from the engine."""

FORWARD = {"keys": [{"anchor": "share", "time": share, "value": share} for share in (0, 1)]}
"""The start value of a new step: from 0 to 1 over the whole length."""


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

    ``eight`` says that only 8 bits of the result are needed; a step that is faster that way may
    then give 8-bit RGB (H, W, 3). ``previous`` is the step's own result one frame earlier, for
    feedback steps; for steps that gather frames, it is the sum of the earlier frames, and ``part``
    is the number of the present frame and of all frames. Played ``backwards``, ``moment`` runs from
    the last frame to the first.
    """

    @property
    def running(self) -> Moment:
        """The moment in the edit's time, which always runs forwards. Footage uses it."""
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
    """The reason why a step cannot stand at its place.

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
    """Its main input; None for a source, which starts a lane."""
    gives: Literal["picture", "matte", "same"] = "picture"
    inputs: tuple[InputKind, ...] = ()
    source: str = ""
    """The publication that defines it."""
    fresh: Mapping[str, Any] = field(default_factory=dict)
    """Start values of a new step that differ from the defaults."""
    matte_when: Callable[[Mapping[str, Any]], bool] | None = None
    """A function of the values in the document: whether the step gives a matte, for kinds whose
    values decide that."""
    needs: Callable[[Mapping[str, Any]], set[str]] | None = None
    """A function of the resolved values: the inputs (names, and ``"main"``) that the result depends
    on; by default all. Other inputs are not computed."""
    reads: Callable[[Call], Hashable] | None = None
    """A function of the call without inputs: everything the result depends on besides values,
    inputs and size, such as a moment or a frame of footage. Without it the result changes only with
    values and inputs."""
    takes_eight: tuple[str, ...] = ()
    """Inputs (names, and ``"main"``) that it also takes as 8-bit RGB."""
    gives_eight: bool = False
    """Whether it can give 8-bit RGB if only that is wanted; see :class:`Call`."""
    shows: Callable[[Call], tuple[Nested | Wired, int] | None] | None = None
    """A function of the call without inputs: the effect that the step shows, and the frame of it.
    That effect's result is then the step's own."""
    goes_on: Callable[[Call], bool] | None = None
    """A function of the call without inputs: whether this frame continues from the step's own
    result one frame earlier. The engine starts at the last frame that does not, or from a kept
    state."""
    frames: Callable[[Call], Sequence[int]] | None = None
    """A function of the call without inputs: the frames of its main input that it reads; by default
    this one.
    The first is the main input; all are in ``Call.series``."""
    gathers: bool = False
    """Whether it takes its frames one by one: it is called for each frame, with that frame as main
    input and its result so far as ``Call.previous``, so that it never holds all of them."""
    merge: Callable[[Mapping[str, Any], Mapping[str, Any]], Mapping[str, Any] | None] | None = None
    """A function of the values of two neighbouring steps of this kind, upper and lower: the values
    of one step that does the work of both, or None if there are none."""
    rowwise: bool = False
    """Whether each row of the result depends only on the same row of the inputs, so that the
    function may get any run of rows. Neighbours like this share a pass."""
    holds: str = ""
    """For a kind that holds steps, which run repeatedly over their own result: the value that says
    how often. Such a step cannot hold another one."""
    runs: Effect | None = None
    """The effect whose result it gives, for a macro. Values of the step are the macro's controls,
    inputs fill its slots."""
    compute: Compute = lambda call: call.main

    def __call__(self, compute: Compute) -> Compute:
        assert self.kind not in _KINDS, self.kind
        _KINDS[self.kind] = replace(self, compute=compute)
        return compute

    def misplaced(self, first: bool, who: str) -> Misplaced | None:
        """The problem of a step of this kind at a place in a lane; None if it may stand there.

        Parameters
        ----------
        first : bool
            Whether it stands first in its lane. In a repeat, no step does.
        who : str
            The step's name on screen.
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
            f"There is no step of the kind “{kind}”. “pale-static steps” lists all kinds."
        )
    return declared


def step_kinds() -> tuple[StepKind, ...]:
    """All step kinds, in the order of their families and declarations."""
    return tuple(_KINDS.values())
