"""What lies on the demo's shelf besides the first two."""

from __future__ import annotations

from .looks import (
    bulge_split,
    eight_lamp,
    overprint,
    rain_streaks,
    relay_fault,
    soot_lift,
    worn_tape,
)
from .transitions import destination_board, fog_bell, inked_ticket, ring_crossing

LOOKS = (
    relay_fault, bulge_split, eight_lamp, worn_tape, rain_streaks, overprint, soot_lift,
)  # fmt: skip
TRANSITIONS = (fog_bell, inked_ticket, destination_board, ring_crossing)
