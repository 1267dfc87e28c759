"""ASC CDL files: ``.cdl``, ``.ccc`` and ``.cc`` read, ``.cc`` written."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite
from xml.etree import ElementTree

from ...core.faults import TooLarge, Unreadable

MOST_BYTES = 1 << 20
_SPACE = "urn:ASC:CDL:v1.2"
_COLOURS = ("red", "green", "blue")


@dataclass(frozen=True)
class Grade:
    """A correction as values of the *balance* step, its name, and the number of corrections in the
    file."""

    values: Mapping[str, float]
    name: str
    count: int


def read_cdl(data: bytes, name: str) -> Grade:
    """The first correction in a file of any of the three forms.

    Raises
    ------
    Unreadable, TooLarge

    References
    ----------
    ASC Color Decision List (ASC CDL) 1.2, XML transfer forms.
    """
    if len(data) > MOST_BYTES:
        raise TooLarge(
            f"{name} is larger than {MOST_BYTES >> 20} MB. No colour decision needs that."
        )
    if b"<!" in re.sub(rb"<!--.*?-->", b"", data, flags=re.DOTALL):
        # Only comments begin like this in these files. Entities could refer to other files, or
        # expand without limit.
        raise Unreadable(f"{name} declares a document type or entities. A CDL file has none.")
    try:
        root = ElementTree.fromstring(data)
    except (ElementTree.ParseError, ValueError):
        raise Unreadable(f"{name} is not a CDL file: it is not XML.") from None
    corrections = [one for one in root.iter() if _name(one) == "ColorCorrection"]
    if not corrections:
        raise Unreadable(f"{name} is not a CDL file: it holds no ColorCorrection.")
    values: dict[str, float] = {}
    for node in corrections[0].iter():
        said = _name(node)
        if said in ("Slope", "Offset", "Power"):
            for colour, number in zip(_COLOURS, _numbers(node, 3, name), strict=True):
                values[f"{said.lower()}_{colour}"] = number
        elif said == "Saturation":
            values["saturation"] = _numbers(node, 1, name)[0]
    if not values:
        raise Unreadable(f"{name} holds a correction without slope, offset, power or saturation.")
    return Grade(values, corrections[0].get("id", "")[:120], len(corrections))


def _name(node: ElementTree.Element) -> str:
    return str(node.tag).rpartition("}")[2]


def _numbers(node: ElementTree.Element, count: int, name: str) -> list[float]:
    words = (node.text or "").split()
    try:
        numbers = [float(word) for word in words]
    except ValueError:
        numbers = []
    if len(numbers) != count or not all(isfinite(number) for number in numbers):
        raise Unreadable(
            f"{name}: {_name(node)} needs {count} number{'s' if count > 1 else ''}. "
            f"It has “{' '.join(words)[:40]}”."
        )
    return numbers


def write_cc(values: Mapping[str, float], identity: str) -> bytes:
    """A correction as a ``.cc`` file."""
    ElementTree.register_namespace("", _SPACE)
    root = ElementTree.Element(f"{{{_SPACE}}}ColorCorrection", id=identity)
    sop = ElementTree.SubElement(root, f"{{{_SPACE}}}SOPNode")
    for said in ("Slope", "Offset", "Power"):
        node = ElementTree.SubElement(sop, f"{{{_SPACE}}}{said}")
        node.text = " ".join(f"{values[f'{said.lower()}_{colour}']:.6g}" for colour in _COLOURS)
    sat = ElementTree.SubElement(root, f"{{{_SPACE}}}SatNode")
    ElementTree.SubElement(sat, f"{{{_SPACE}}}Saturation").text = f"{values['saturation']:.6g}"
    ElementTree.indent(root)
    return bytes(ElementTree.tostring(root, "utf-8", xml_declaration=True)) + b"\n"
