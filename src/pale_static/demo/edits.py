"""The demo's edits, which show the shelf's macros in use."""

from __future__ import annotations

from typing import Any

Ids = dict[str, str]


def _shot(ids: Ids, name: str, start: int, length: int, **more: Any) -> dict[str, Any]:
    """Frames of a clip, at 25 a second."""
    plain = {
        "id": name.lower().replace(",", "").replace(" ", "-"), "material": ids[name], "name": name,
        "start": f"{start}/25", "length": f"{length}/25",
    }  # fmt: skip
    return plain | more


def _join(left: str | None, right: str | None, macro: str, length: int, **more: Any) -> Any:
    ends = {name: end for name, end in (("left", left), ("right", right)) if end}
    return {
        "id": f"join-{left}" if left else f"join-to-{right}", **ends, "macro": macro, "version": 1,
        "length": f"{length}/25", **more,
    }  # fmt: skip


def _look(name: str, macro: str, **more: Any) -> dict[str, Any]:
    return {"id": f"look-{name}", "macro": macro, "version": 1, **more}


def last_night(ids: Ids) -> dict[str, Any]:
    """Three shots, two joins."""
    return {
        "format": "pale-static/reel@4", "name": "Last night, cut 1", "rate": "25",
        "width": 1280, "height": 720,
        "shots": [
            _shot(ids, "Headlamp", 0, 84), _shot(ids, "Depot hall", 14, 66),
            _shot(ids, "Wires at dusk", 22, 72),
        ],
        "joins": [
            _join("headlamp", "depot-hall", "quiet-luma", 26),
            _join("depot-hall", "wires-at-dusk", "ember-fray", 36),
        ],
    }  # fmt: skip


def open_day(ids: Ids) -> dict[str, Any]:
    """Half a minute with every kind of macro: looks, joins, titles, a texture, sound."""
    shots = [
        _shot(ids, "Headlamp", 0, 96, gap="10/25", fade_in="12/25"),
        _shot(ids, "Window row", 4, 82, speed="1", blended=True,
              looks=[_look("tape", "worn-tape", settings={"wear": 0.35})]),
        _shot(ids, "Depot hall", 10, 110, speed="3/4", blended=True),
        _shot(ids, "Ticket", 8, 84, looks=[
            _look("print", "overprint", begin="30/25", length="54/25"),
        ]),
        _shot(ids, "Street lights, upright", 6, 86, focus=[0.5, 0.6], gain=-3.0),
        _shot(ids, "Route map", 2, 92, looks=[
            _look("lens", "bulge-split", settings={"bend": 0.1, "split": 0.02}),
            _look("fault", "relay-fault", begin="50/25", length="25/25",
                  settings={"hits": 2, "strength": 9}),
        ]),
        _shot(ids, "Wires at dusk", 12, 84, gap="8/25"),
        _shot(ids, "Street lights", 0, 96, direction="backwards", fade_out="20/25"),
    ]  # fmt: skip
    joins = [
        _join(None, "headlamp", "quiet-luma", 20),
        _join("headlamp", "window-row", "ring-crossing", 8),
        _join("window-row", "depot-hall", "ember-fray", 20),
        _join("depot-hall", "ticket", "inked-ticket", 16),
        _join("ticket", "street-lights-upright", "destination-board", 12),
        _join("street-lights-upright", "route-map", "fog-bell", 4),
        _join("wires-at-dusk", "street-lights", "quiet-luma", 8, settings={"softness": 0.3}),
        _join("street-lights", None, "fog-bell", 24),
    ]

    def title(name: str, at: int, length: int, macro: str, **settings: Any) -> dict[str, Any]:
        return {
            "id": name.lower().replace(" ", "-"), "name": name, "at": f"{at}/25",
            "length": f"{length}/25",
            "use": {"macro": macro, "version": 1, "settings": settings},
        }  # fmt: skip

    rows = [
        {"id": "row-1", "items": [
            title("Lantern Line", 34, 78, "letter-lamps"),
            title("Dust in the hall", 196, 96, "lamp-dust") | {"opacity": 0.8},
            title("Open day", 566, 84, "late-focus", text="Open day\n14 June"),
        ]},
        {"id": "row-2", "items": [
            {"id": "mark", "name": "Lantern Line mark", "at": "430/25", "length": "70/25",
             "source": {"material": ids["Lantern Line mark"], "fit": "contain"},
             "position": [0.9, 0.16], "scale": 0.22, "opacity": 0.9},
            title("Rain over all", 596, 70, "rain-streaks", strength=1.2),
        ]},
    ]  # fmt: skip
    return {
        "format": "pale-static/reel@4", "name": "Open day", "rate": "25", "width": 1280,
        "height": 720, "shots": shots, "joins": joins, "rows": rows,
        "marks": [{"at": "198/25", "name": "The hall"}, {"at": "328/25", "name": "Punch"}],
    }  # fmt: skip
