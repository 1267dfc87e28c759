"""Before a render starts: what does not match, in one sentence each, with its remedy."""

from __future__ import annotations

from math import ceil

from ..core.faults import Fault
from ..core.reel import Reel, handles
from ..store import Library, macros
from .frames import lasts


def preflight(library: Library, reel: Reel, form: str) -> list[str]:
    """Every mismatch of size, rate, length and missing material."""
    said: list[str] = []
    if not reel.shots:
        return ["The edit is empty. Put a shot on it first."]
    if form == "mp4" and (reel.width % 2 or reel.height % 2):
        said.append(
            f"H.264 video needs an even width and height, and the edit is {reel.width}×"
            f"{reel.height}. Change its size, or render PNGs."
        )
    try:
        known = lasts(library, reel)
    except Fault as fault:
        return [*said, fault.sentence]
    for shot in reel.shots:
        footage = library.footage(shot.material)
        there = known[shot.material]
        short = 0
        if there is not None:
            short = ceil((shot.start + shot.length - there) * reel.frame_rate.exact)
        if short > 0:
            said.append(
                f"{shot.name} runs {short} frames past the end of its material: its last frame "
                "will stand still. Trim it to avoid that."
            )
        if footage.rate is not None and footage.rate != reel.frame_rate:
            said.append(
                f"{shot.name} has {float(footage.rate):.5g} frames a second, the edit "
                f"{float(reel.frame_rate):.5g}: frames will be doubled or left out."
            )
        wide = footage.size.width / footage.size.height
        if abs(wide / (reel.width / reel.height) - 1) > 0.02:
            said.append(
                f"{shot.name} is {footage.size.width}×{footage.size.height}, another shape than "
                f"the edit: it is fitted by “{shot.fit}”."
            )
        if shot.fit == "cover" and footage.size.height < reel.height * 0.75:
            said.append(f"{shot.name} is smaller than the edit and will be enlarged.")
    for join in reel.joins:
        left = reel.shots[reel.shot_index(join.left)]
        try:
            macros.version(library.db, join.macro, join.version)
        except Fault as fault:
            said.append(fault.sentence)
        hold = handles(reel, join, known)
        if hold.short and not join.hold:
            said.append(
                f"The join after {left.name} needs {hold.left_needs} frames after the cut and "
                f"{hold.right_needs} before it; there are {hold.left_spare} and "
                f"{hold.right_spare}. The first or last frame will stand still there: shorten or slide the join to avoid that."
            )
    return said
