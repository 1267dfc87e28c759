"""ASC CDL files in and out."""

from __future__ import annotations

import pytest

from pale_static.core import Fault
from pale_static.media.colour.cdl import read_cdl, write_cc

# The form of ASC CDL 1.2's XML transfer, with invented values.
CDL = """<?xml version="1.0" encoding="UTF-8"?>
<ColorDecisionList xmlns="urn:ASC:CDL:v1.2">
  <InputDescription>dusk wires</InputDescription>
  <ColorDecision>
    <MediaRef ref="file:///a/b"/>
    <ColorCorrection id="lantern-04">
      <SOPNode>
        <Description>warmer</Description>
        <Slope>1.1 1.0 0.9</Slope>
        <Offset>0.02 0 -0.03</Offset>
        <Power>1 1.05 1.2</Power>
      </SOPNode>
      <SATNode><Saturation>0.85</Saturation></SATNode>
    </ColorCorrection>
  </ColorDecision>
  <ColorDecision><ColorCorrection id="b"><SatNode><Saturation>2</Saturation></SatNode>
  </ColorCorrection></ColorDecision>
</ColorDecisionList>"""
VALUES = {
    "slope_red": 1.1, "slope_green": 1.0, "slope_blue": 0.9, "offset_red": 0.02,
    "offset_green": 0.0, "offset_blue": -0.03, "power_red": 1.0, "power_green": 1.05,
    "power_blue": 1.2, "saturation": 0.85,
}  # fmt: skip


def test_a_decision_list_is_read() -> None:
    found = read_cdl(CDL.encode(), "dusk.cdl")
    assert found.values == VALUES
    assert (found.name, found.count) == ("lantern-04", 2)


def test_what_is_written_reads_back() -> None:
    written = write_cc(VALUES, "mine")
    assert b'<ColorCorrection xmlns="urn:ASC:CDL:v1.2" id="mine">' in written
    assert read_cdl(written, "mine.cc").values == VALUES


def test_the_order_of_operations_is_asc_cdl() -> None:
    import numpy as np

    from pale_static.core.kernels.colour import grade

    # ASC CDL 1.2: out = clamp(in·slope + offset)^power, then saturation about Rec. 709 luma.
    rng = np.random.default_rng(2)
    source = np.concatenate([rng.random((9, 7, 3)), np.ones((9, 7, 1))], -1).astype(np.float32)
    triples = [tuple(VALUES[f"{n}_{c}"] for c in ("red", "green", "blue"))
               for n in ("slope", "offset", "power")]  # fmt: skip
    slope, offset, power = (np.array(t) for t in triples)
    graded = np.clip(source[..., :3] * slope + offset, 0, 1) ** power
    luma = (graded @ [0.2126, 0.7152, 0.0722])[..., None]
    expected = np.clip(luma + VALUES["saturation"] * (graded - luma), 0, 1)
    found = grade.cdl(source, *triples, VALUES["saturation"])
    assert np.abs(found[..., :3] - expected).max() < 1e-5


BOMB = """<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "bbbb">]><ColorCorrection>&b;</ColorCorrection>"""


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (BOMB, "declares a document type"),
        ("<!-- x --><a/>", "no ColorCorrection"),
        ("hello", "not XML"),
        ("", "not XML"),
        ("<ColorCorrection/>", "without slope"),
        ("<ColorCorrection><Slope>1 2</Slope></ColorCorrection>", "Slope needs 3 numbers"),
        ("<ColorCorrection><Power>1 2 nan</Power></ColorCorrection>", "Power needs 3 numbers"),
        ("<ColorCorrection><Saturation>x</Saturation></ColorCorrection>", "needs 1 number"),
        (" " * (1 << 20) + "<a/>", "larger than 1 MB"),
    ],
)
def test_what_is_no_cdl_file_is_refused_in_words(text: str, said: str) -> None:
    with pytest.raises(Fault, match=said):
        read_cdl(text.encode(), "odd.cdl")
