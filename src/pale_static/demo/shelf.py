"""What lies on the demo's shelf besides the first two."""

from __future__ import annotations

from .looks import (
    eight_lamp,
    overprint,
    pinch_split,
    rain_streaks,
    relay_fault,
    soot_lift,
    worn_reel,
)
from .transitions import destination_board, fog_bell, inked_ticket, ring_crossing

LOOKS = (
    relay_fault, pinch_split, eight_lamp, worn_reel, rain_streaks, overprint, soot_lift,
)  # fmt: skip
TRANSITIONS = (fog_bell, inked_ticket, destination_board, ring_crossing)
