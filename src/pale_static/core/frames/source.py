"""A frame source plans the frames of an effect or an edit, and names everything that goes into
them."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, TypeVar

from ..document import digest_of
from ..engine.nodes import Node, Place, Plan
from ..engine.states import States
from ..faults import Fault, NoRoom
from ..pictures.picture import Size
from ..time.timing import FrameRate

if TYPE_CHECKING:
    from ..sound import Mixed

T = TypeVar("T")

RECENT = 16
"""Frames that a feedback step sees for a rough picture."""


@dataclass(frozen=True)
class PlannedFrame:
    """A frame that can be computed.

    Parameters
    ----------
    plan : Plan
        The nodes to compute, each after everything that it reads.
    faults : tuple of Fault
        The faults of macros that are left out of the frame.
    program : function
        Gives the name of the program that will compute the frame.
    """

    plan: Plan
    faults: tuple[Fault, ...] = ()
    program: Callable[[], str] = str

    @property
    def key(self) -> str:
        """Names the picture: frames with one key have the same pixels."""
        return f"{self.plan.key}.{self.program()}"

    @property
    def nodes(self) -> tuple[Node, ...]:
        """The steps to compute, in order."""
        return self.plan.nodes

    @property
    def size(self) -> Size:
        """Pixels of the picture."""
        return self.plan.size


@dataclass(frozen=True, kw_only=True)
class FrameSource(ABC):
    """Frames 0 to ``length`` − 1 of an effect with its clips, or of an edit.

    Parameters
    ----------
    states : States, optional
        Results of feedback steps, which later frames continue from. Keys are the same without.
    program : function
        Gives the name of the program that computes the frames, which is a part of every key.
    recent : int, optional
        Feedback steps look back at most this number of frames, for a rough picture at once.
    held : object, optional
        An object that must stay open while frames are computed, such as a folder.
    """

    states: States | None = None
    program: Callable[[], str] = str
    recent: int | None = None
    held: Any = None

    @property
    @abstractmethod
    def name(self) -> str:
        """The name for people."""

    @property
    @abstractmethod
    def size(self) -> Size:
        """Pixels of a frame at full size."""

    @property
    @abstractmethod
    def rate(self) -> FrameRate:
        """Frames in a second."""

    @property
    @abstractmethod
    def length(self) -> int:
        """Number of frames."""

    @abstractmethod
    def plan(self, frame: int, size: Size, step: Place | None, without: Collection[str]) -> Plan:
        """The plan of a frame, without some uses of macros.

        Raises
        ------
        Fault
            If it happened in a use of a macro, its ``use`` names that.
        """

    @abstractmethod
    def going_in(self, frame: int) -> Any:
        """Plain data that names everything that goes into a frame, made without planning."""

    def sound(self) -> Mixed | None:
        """The sound that runs beside the frames; None for silence."""
        return None

    def at(
        self, frame: int, size: Size | None = None, *, step: Place | None = None,
        without: Collection[str] = (),
    ) -> PlannedFrame:  # fmt: skip
        """A frame, ready to be computed. Macros that fail are left out of it.

        Parameters
        ----------
        size : Size, optional
            Pixels of the picture; the full size by default.
        step : (lane, step), optional
            The step whose result is wanted; the output by default.
        without : collection of str
            Uses of macros to leave out as well.

        Raises
        ------
        Fault
            If something fails that is not a use of a macro.
        """
        return self.computed(frame, lambda planned: planned, size, step=step, without=without)

    def computed(
        self, frame: int, compute: Callable[[PlannedFrame], T], size: Size | None = None, *,
        step: Place | None = None, without: Collection[str] = (),
    ) -> T:  # fmt: skip
        """The result of ``compute`` for a frame. Macros that fail when planned or computed are left
        out.

        A lack of memory is raised: it is not the fault of a macro.
        """
        faults: dict[str, Fault] = {}
        size = size or self.size
        while True:
            try:
                plan = self.plan(frame, size, step, {*without, *faults})
                return compute(PlannedFrame(plan, tuple(faults.values()), self.program))
            except Fault as fault:
                if not fault.use or fault.use in faults or isinstance(fault, NoRoom):
                    raise
                faults[fault.use] = fault

    def picture_name(
        self, frame: int, size: Size | None = None, *, step: Place | None = None,
        without: Collection[str] = (),
    ) -> str:  # fmt: skip
        """Names the picture of a frame without planning it, which takes a hundred times longer.

        Two pictures with one name have the same pixels. It covers what goes into the frame, the
        program and the size, and the step that is shown. Parameters as for :meth:`at`.
        """
        size = size or self.size
        seen: list[Any] = [size.width, size.height, step, sorted(without)]
        if self.recent is not None:
            seen.append(self.recent)
        return digest_of([self.program(), seen, self.going_in(frame)])

    def stretch_name(self, first: int, count: int, written: Any) -> str:
        """Names a stretch of frames as they are written.

        Two stretches with one name have the same bytes. It covers what goes into each frame, the
        program, and ``written``: plain data on the format, size and rate.
        """
        frames = [self.going_in(frame) for frame in range(first, first + count)]
        return digest_of([self.program(), written, frames])

    def roughly(self) -> FrameSource:
        """Nearly the same frames, at once: feedback steps see only the last few frames, in which
        the clips of an effect stand still."""
        return replace(self, states=None, recent=RECENT)

    def on(self, states: States | None) -> FrameSource:
        """The same frames, with feedback steps that continue from these states."""
        return replace(self, states=states)
