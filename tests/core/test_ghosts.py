"""Pictures smaller than the frame, and steps that mirror their borders."""

from __future__ import annotations

from typing import Any

import pytest

from pale_static.core import Size, read_effect
from pale_static.core.proof.ghosts import covers, ghosts

HD = Size(1920, 1080)


@pytest.mark.parametrize(
    ("picture", "how", "fills"),
    [
        (Size(1920, 1080), "actual", True),
        (Size(1920, 1078), "actual", True),  # two lines in a thousand: nobody sees them
        (Size(640, 360), "actual", False),
        (Size(640, 360), "contain", True),
        (Size(400, 400), "contain", False),
        (Size(400, 400), "cover", True),
        (Size(400, 400), "stretch", True),
        (Size(4000, 900), "actual", False),
    ],
)
def test_whether_a_picture_fills_the_frame(picture: Size, how: str, fills: bool) -> None:
    assert covers(picture, HD, how) is fills


def effect(fit: str, outside: str, later: str, on: bool = True) -> Any:
    return read_effect(
        {
            "name": "Wet",
            "kind": "look",
            "slots": [{"id": "clip", "name": "Clip"}, {"id": "matte", "name": "Matte", "kind": "matte"}],
            "lanes": [
                {"id": "clip", "name": "Clip", "steps": [{"id": "s", "kind": "slot"}]},
                {"id": "m", "name": "Where", "steps": [
                    {"id": "s", "kind": "slot", "values": {"slot": "matte", "fit": fit, "outside": outside}},
                    {"id": "soft", "kind": "blur", "values": {"outside": "clamp"}}]},
                {"id": "out", "name": "Out", "steps": [
                    {"id": "c", "kind": "continue-from", "inputs": {"from": {"lane": "clip"}}},
                    {"id": "push", "kind": "displace", "on": on, "values": {"outside": later},
                     "inputs": {"map": {"lane": "m"}}}]},
            ],
        }
    )  # fmt: skip


@pytest.mark.parametrize(
    ("fit", "outside", "later", "on", "culprit"),
    [
        ("cover", "clear", "mirror", True, ""),
        ("actual", "clear", "clear", True, ""),
        ("actual", "mirror", "clear", True, "it is set to mirror its borders"),
        ("actual", "clear", "mirror", True, "in “Out” mirrors its borders"),
        ("contain", "clear", "repeat", True, "in “Out” repeats its borders"),
        ("actual", "clear", "mirror", False, ""),
    ],
)
def test_a_small_matte_before_mirrored_borders_is_told_with_its_remedy(
    fit: str, outside: str, later: str, on: bool, culprit: str
) -> None:
    sizes = {"matte": Size(500, 500), "clip": HD}
    found = ghosts(effect(fit, outside, later, on), sizes, HD)
    assert bool(found) is bool(culprit)
    if found:
        assert (found[0].lane, found[0].step) == ("m", "s")
        assert culprit in found[0].sentence
        assert "500×500" in found[0].sentence
    # A picture that fills the frame is never reported.
    assert ghosts(effect(fit, outside, later, on), {"matte": HD}, HD) == []
