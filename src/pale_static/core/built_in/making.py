"""Helpers that the built-in macros are written with: lanes, controls, and whole documents."""

from __future__ import annotations

from typing import Any

Document = dict[str, Any]

FORWARD = [{"time": 0, "value": 0}, {"time": 1, "value": 1}]


def clip_lane(slot: str, name: str) -> Document:
    """A folded lane that holds what fills a slot."""
    step = {"id": "slot", "kind": "slot", "values": {"slot": slot}}
    return {"id": slot, "name": name, "folded": True, "steps": [step]}


def slots(first: str | None, second: str | None) -> list[Document]:
    """The two slots of a transition, with what stands in for them."""
    return [
        {"id": "from", "name": "From", "help": "The first clip.", "stand_in": first},
        {"id": "to", "name": "To", "help": "The second clip.", "stand_in": second},
    ]


def reads(lane: str, **more: Any) -> Document:
    """The result of a lane, as an input of a step."""
    return {"lane": lane, **more}


def moving(first: float, last: float, ease: Any = "linear") -> Document:
    """A value that goes from one to another over the whole length."""
    begun = {"time": 0, "value": first} | ({} if ease == "linear" else {"ease": ease})
    return {"keys": [begun, {"time": 1, "value": last}]}


def lane(name: str, *steps: Document) -> Document:
    """A lane of steps, each called after its kind unless it says otherwise."""
    made = [{"id": step["kind"], **step} for step in steps]
    return {"id": name.lower().replace(" ", "-"), "name": name, "steps": made}


def number(slug: str, label: str, default: float, high: float, help: str, **more: Any) -> Document:
    """A control that is a number."""
    return {
        "slug": slug, "label": label, "type": "number", "default": default, "slider": [0, high],
        "help": help, **more,
    }  # fmt: skip


def colour(slug: str, label: str, default: str, help: str) -> Document:
    """A control that is a colour."""
    return {"slug": slug, "label": label, "type": "colour", "default": default, "help": help}


def toggle(slug: str, label: str, default: bool, help: str) -> Document:
    """A control that is on or off."""
    return {"slug": slug, "label": label, "type": "toggle", "default": default, "help": help}


def angle(slug: str, label: str, default: float, help: str) -> Document:
    """A control that is an angle."""
    return {
        "slug": slug, "label": label, "type": "angle", "default": default, "slider": [-180, 180],
        "help": help,
    }  # fmt: skip


def seed(slug: str, label: str, default: int, help: str) -> Document:
    """A control that picks another random arrangement."""
    return {
        "slug": slug, "label": label, "type": "seed", "default": default, "slider": [1, 100],
        "help": help,
    }  # fmt: skip


def step(kind: str, inputs: Document | None = None, /, **values: Any) -> Document:
    """A step with its inputs and values."""
    return {"kind": kind, "values": values, "inputs": inputs or {}}


def by(control: str, low: float | None = None, high: float | None = None) -> Document:
    """A value that follows a control, through a range of its own."""
    return {"control": control} if low is None else {"control": control, "range": [low, high]}


def effect(
    kind: str, name: str, sentence: str, tags: list[str], seconds: float, clips: list[str | None],
    lanes: list[Document], controls: list[Document], note: str,
) -> Document:  # fmt: skip
    """A whole document around lanes and controls, on one clip or across two."""
    first, second = (*clips, None, None)[:2]
    if kind == "transition":
        given, sources = slots(first, second), [clip_lane("from", "From"), clip_lane("to", "To")]
    else:
        given = [{"id": "clip", "name": "Clip", "help": "The clip it works on.", "stand_in": first}]
        sources = [clip_lane("clip", "Clip")]
    return {
        "format": "pale-static/effect@3", "name": name, "kind": kind, "sentence": sentence,
        "tags": tags, "seconds": seconds, "slots": given, "lanes": [*sources, *lanes],
        "controls": controls, "notes": [{"text": note}],
    }  # fmt: skip


def begin(lane: str) -> Document:
    """A lane's first step that shows the result of another lane."""
    return {"kind": "continue-from", "inputs": {"from": reads(lane)}}


def wipe(matte: str, incoming: str = "to", **values: Any) -> Document:
    """The step from one clip to the next along a matte."""
    inputs = {"incoming": reads(incoming), "matte": reads(matte)}
    moving = {"progress": {"keys": FORWARD}}
    return {"kind": "luma-wipe", "values": moving | values, "inputs": inputs}


def there_and_back(away: float, there: float, come: str, go: str) -> Document:
    """A value that arrives some time after the start, and leaves some time before the end."""
    comes = "linear" if come == "linear" else {"into": None, "out": come}
    goes = "linear" if go == "linear" else {"into": go, "out": None}
    return {
        "keys": [
            {"anchor": "start", "time": 0, "value": away, "ease": comes},
            {"anchor": "start", "time": 0.9, "value": there},
            {"anchor": "end", "time": 0.7, "value": there, "ease": goes},
            {"anchor": "end", "time": 0, "value": away},
        ]
    }


def lettering(**more: Any) -> Document:
    """The lettering, with the controls that every title has."""
    values = {
        "text": by("text"), "size": by("size"), "fill": by("colour"), "position": by("position"),
        "font": "Rubik", "box": 86, "shrink": True,
    }  # fmt: skip
    return {"kind": "title", "values": values | more}


def text_controls(text: str, size: float, fill: str, place: list[float]) -> list[Document]:
    """The controls that every title has."""
    return [
        {"slug": "text", "label": "Text", "type": "text", "default": text,
         "help": "The words of the title. Enter starts a new line."},
        number("size", "Size", size, 30, "Size of the type.", unit="%h", slider=[2, 30],
               allowed=[0, 200]),
        colour("colour", "Colour", fill, "Colour of the letters."),
        {"slug": "position", "label": "Position", "type": "point", "default": place,
         "help": "Where the middle of the text lies."},
    ]  # fmt: skip


def overlay(
    kind: str, name: str, sentence: str, tags: list[str], seconds: float, lanes: list[Document],
    controls: list[Document], note: str, slots: list[Document] | None = None,
) -> Document:  # fmt: skip
    """A whole document that lies over clips: a title or a texture."""
    return {
        "format": "pale-static/effect@3", "name": name, "kind": kind, "sentence": sentence,
        "tags": tags, "seconds": seconds, "slots": slots or [], "lanes": lanes,
        "controls": controls, "notes": [{"text": note}],
    }  # fmt: skip


NOTHING = lane("Nothing", {"kind": "flat", "values": {"colour": "#00000000"}})
"""A lane that is clear all over."""


def fades() -> Document:
    """The last step of a title that comes and goes: it needs the lane :data:`NOTHING`."""
    progress = there_and_back(1, 0, "sine", "sine")
    return {"id": "fade", **step("dissolve", {"incoming": reads("nothing")}, progress=progress)}
