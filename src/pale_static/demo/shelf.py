"""The demo's shelf: its macros and their stand-ins."""

from __future__ import annotations

from collections.abc import Callable

from ..core.built_in.making import Document
from .content import ember_fray, quiet_luma
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

Make = Callable[..., Document]

TRANSITIONS: dict[Make, tuple[str, ...]] = {
    quiet_luma: ("Wires at dusk", "Depot hall"),
    ember_fray: ("Headlamp", "Wires at dusk"),
    fog_bell: ("Street lights", "Route map"),
    inked_ticket: ("Ticket", "Window row"),
    destination_board: ("Depot hall", "Headlamp"),
    ring_crossing: ("Wires at dusk", "Window row"),
    found_and_restored: ("Tram as found", "Tram restored"),
    harbour: ("Wires at dusk", "Street lights"),
    headlight_cut: ("Depot hall", "Route map"),
    dead_signal: ("Ticket", "Headlamp"),
}
LOOKS: dict[Make, tuple[str, ...]] = {
    relay_fault: ("Route map",),
    bulge_split: ("Depot hall",),
    eight_lamp: ("Street lights",),
    worn_tape: ("Window row",),
    rain_streaks: ("Depot hall",),
    overprint: ("Wires at dusk",),
    soot_lift: ("Ticket",),
    soft_hour: ("Window row",),
    wire_glow: ("Route map",),
    platform_shades: ("Wires at dusk",),
    platform_glare: ("Window row",),
    late_trams: ("Ticket",),
    embossed_pass: ("Depot hall",),
    frost_garden: ("Wires at dusk",),
    headlight_pass: ("Depot hall",),
    wet_pane: ("Street lights",),
}
OVERLAYS: dict[Make, tuple[str, ...]] = dict.fromkeys(
    (
        late_focus, letter_lamps, lamp_dust, enamel_sign, crumpled_foil, arrivals,
        passing_headlight, flap_board, ticket_print, neon_stop, chalk, destination_roll, bad_track,
        rail_dust, old_glass, caustic_pool, frost_pane,
    ),
    (),
)  # fmt: skip
SHELF = TRANSITIONS | LOOKS | OVERLAYS
"""For each macro, in order of publishing, the function that makes it and its stand-in footage."""
STAPLES = (
    quiet_luma, ember_fray, fog_bell, inked_ticket, destination_board, ring_crossing, relay_fault,
    bulge_split, eight_lamp, worn_tape, rain_streaks, overprint, soot_lift, late_focus,
    letter_lamps, lamp_dust,
)  # fmt: skip
"""The macros that the demo's edits use: a shelf that is large enough for most tests."""
