"""What the demo's macros are written with: lanes, controls and the frame around them."""

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
    """What a lane gives, as another input."""
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
        "format": "pale-static/effect@2", "name": name, "kind": kind, "sentence": sentence,
        "tags": tags, "seconds": seconds, "slots": given, "lanes": [*sources, *lanes],
        "controls": controls, "notes": [{"text": note}],
    }  # fmt: skip


def begin(lane: str) -> Document:
    """Starts a lane with what another gives."""
    return {"kind": "continue-from", "inputs": {"from": reads(lane)}}


def wipe(matte: str, incoming: str = "to", **values: Any) -> Document:
    """The step from one clip to the next along a matte."""
    inputs = {"incoming": reads(incoming), "matte": reads(matte)}
    moving = {"progress": {"keys": FORWARD}}
    return {"kind": "luma-wipe", "values": moving | values, "inputs": inputs}
