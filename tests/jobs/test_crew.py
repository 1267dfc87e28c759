"""Frames made by several processes: in order, complete, and passed in shared memory."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import pytest

from pale_static.core import Fault
from pale_static.jobs import crew


@dataclass(frozen=True)
class Counted:
    """A film whose frame k is filled with k; ``odd`` frames have another shape."""

    odd: bool = False
    fails_at: int = -1

    def maker(self) -> Any:
        def make(index: int) -> Any:
            if index == self.fails_at:
                raise Fault(f"Frame {index} cannot be made. Look at its clip.", "here")
            shape = (3, 5) if self.odd and index % 2 else (4, 6)
            return np.full(shape, index, np.uint16)

        return make


@pytest.mark.parametrize("room", [0, 4 * 6 * 2, 7])
@pytest.mark.parametrize("odd", [False, True])
def test_every_frame_comes_in_order_and_whole(room: int, odd: bool) -> None:
    # More frames than the shared memory holds at once, so that its places are used again.
    count = 5 * crew.CHUNK * 2 + 3
    seen = 0
    for index, frame in crew.frames(Counted(odd), range(count), 2, 1, always=True, room=room):
        assert index == seen
        assert frame.dtype == np.uint16
        assert frame.shape == ((3, 5) if odd and index % 2 else (4, 6))
        assert (frame == index).all()
        seen += 1
    assert seen == count


def test_a_fault_in_a_process_is_told_as_it_is() -> None:
    made = crew.frames(Counted(fails_at=9), range(40), 2, 1, always=True, room=48)
    with pytest.raises(Fault, match="Frame 9 cannot be made") as told:
        list(made)
    assert told.value.where == "here"
