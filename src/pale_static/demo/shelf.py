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
from .titles import lamp_dust, late_focus, letter_lamps
from .transitions import destination_board, fog_bell, inked_ticket, ring_crossing

LOOKS = (
    relay_fault, bulge_split, eight_lamp, worn_tape, rain_streaks, overprint, soot_lift,
)  # fmt: skip
OVERLAYS = (late_focus, letter_lamps, lamp_dust)
TRANSITIONS = (fog_bell, inked_ticket, destination_board, ring_crossing)
