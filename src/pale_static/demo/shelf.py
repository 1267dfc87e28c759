"""What lies on the demo's shelf besides the first two."""

from __future__ import annotations

from .lights import (
    embossed_pass,
    frost_garden,
    frost_pane,
    headlight_pass,
    late_trams,
    platform_glare,
    platform_shades,
    soft_hour,
    wire_glow,
)
from .looks import (
    bulge_split,
    eight_lamp,
    overprint,
    rain_streaks,
    relay_fault,
    soot_lift,
    worn_tape,
)
from .loops import caustic_pool, old_glass, rail_dust
from .material_titles import crumpled_foil, enamel_sign, wet_pane
from .passages import dead_signal, found_and_restored, harbour, headlight_cut
from .signs import (
    arrivals,
    bad_track,
    chalk,
    destination_roll,
    flap_board,
    neon_stop,
    passing_headlight,
    ticket_print,
)
from .titles import lamp_dust, late_focus, letter_lamps
from .transitions import destination_board, fog_bell, inked_ticket, ring_crossing

LOOKS = (
    relay_fault, bulge_split, eight_lamp, worn_tape, rain_streaks, overprint, soot_lift,
    soft_hour, wire_glow, platform_shades, platform_glare, late_trams, embossed_pass, frost_garden,
    headlight_pass, wet_pane,
)  # fmt: skip
OVERLAYS = (
    late_focus, letter_lamps, lamp_dust, enamel_sign, crumpled_foil, arrivals, passing_headlight,
    flap_board, ticket_print, neon_stop, chalk, destination_roll, bad_track, rail_dust, old_glass,
    caustic_pool, frost_pane,
)  # fmt: skip
TRANSITIONS = (
    fog_bell, inked_ticket, destination_board, ring_crossing, found_and_restored, harbour,
    headlight_cut, dead_signal,
)  # fmt: skip
