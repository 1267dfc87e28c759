"""Powers of float32 that vectorise: gamma, and the transfer curves between light and code."""

from __future__ import annotations

import numpy as np

from ..rows import inner

F = np.float32
_ONE, _HALF = F(1), F(0.5)
_ROOT = F(1.4142135)
_SMALLEST = F(1.2e-38)
# 2/ln 2, and the odd terms of artanh.
_L0, _L1, _L2, _L3, _L4 = F(2.885390082), F(1 / 3), F(0.2), F(1 / 7), F(1 / 9)
# ln(2)^k / k!
_E1, _E2, _E3 = F(0.69314718), F(0.24022651), F(0.05550411)
_E4, _E5, _E6 = F(0.00961813), F(0.00133336), F(0.00015469)


@inner("f4(f4,f4)", error_model="numpy", fastmath={"contract", "nnan"})
def power(base, exponent):
    """base^exponent for a base from 0, within 2e-6 of it: 2^(exponent · log₂ base).

    log₂ by exponent bits and the artanh series of what is left, 2^x by whole steps and Taylor's
    series; both branch-free, so loops over it vectorise. 0 for a base of 0 and below.
    """
    bits = np.float32(base).view(np.int32)
    whole = F((bits >> 23) - 127)
    rest = np.int32((bits & 0x7FFFFF) | 0x3F800000).view(np.float32)
    high = rest > _ROOT
    rest = rest * _HALF if high else rest
    whole = whole + _ONE if high else whole
    s = (rest - _ONE) / (rest + _ONE)
    q = s * s
    log = whole + _L0 * s * (_ONE + q * (_L1 + q * (_L2 + q * (_L3 + q * _L4))))
    t = min(max(exponent * log, F(-126)), F(126))
    step = np.floor(t + _HALF)
    f = t - step
    tail = f * (_E1 + f * (_E2 + f * (_E3 + f * (_E4 + f * (_E5 + f * _E6)))))
    scale = np.int32((np.int32(step) + 127) << 23).view(np.float32)
    return (_ONE + tail) * scale if base > _SMALLEST else F(0)


@inner("f4(f4)", error_model="numpy", fastmath={"contract", "nnan"})
def light(code):
    """sRGB code value to linear light; negative values mirror. IEC 61966-2-1, section 5.2."""
    size = abs(code)
    low = size * F(1 / 12.92)
    high = power((size + F(0.055)) * F(1 / 1.055), F(2.4))
    root = low if size <= F(0.04045) else high
    return -root if code < F(0) else root


@inner("f4(f4)", error_model="numpy", fastmath={"contract", "nnan"})
def code(linear):
    """Linear light to sRGB code value: the inverse of :func:`light`."""
    size = abs(linear)
    low = size * F(12.92)
    high = F(1.055) * power(size, F(1 / 2.4)) - F(0.055)
    root = low if size <= F(0.0031308) else high
    return -root if linear < F(0) else root


# Between the straight part and 2 both curves are polynomials of a root, within 1e-6: Chebyshev's
# series of the formulas above, in the root moved to -1..1.
_SPAN = F(2)
_LIGHT_AT, _LIGHT_BY = F(0.871238476), F(1.77844602)
_CODE_AT, _CODE_BY = F(0.712876074), F(2.09938029)


@inner(error_model="numpy", fastmath={"contract", "nnan"})
def lights(line):
    """:func:`light` of every value in a line, in its place."""
    beyond = 0
    for x in range(len(line)):
        beyond |= abs(line[x]) > _SPAN
    if beyond:
        for x in range(len(line)):
            line[x] = light(line[x])
        return
    for x in range(len(line)):
        size = abs(line[x])
        u = (np.sqrt(size + F(0.055)) - _LIGHT_AT) * _LIGHT_BY
        high = F(8.19326753e-05)
        high = high * u + F(-0.000698879512)
        high = high * u + F(0.0311344893)
        high = high * u + F(0.301586581)
        high = high * u + F(1.03836744)
        high = high * u + F(1.72381372)
        high = high * u + F(1.4057736)
        high = high * u + F(0.453786986)
        root = size * F(1 / 12.92) if size <= F(0.04045) else high
        line[x] = -root if line[x] < F(0) else root


@inner(error_model="numpy", fastmath={"contract", "nnan"})
def codes(line):
    """:func:`code` of every value in a line, in its place."""
    beyond = 0
    for x in range(len(line)):
        beyond |= abs(line[x]) > _SPAN
    if beyond:
        for x in range(len(line)):
            line[x] = code(line[x])
        return
    for x in range(len(line)):
        size = abs(line[x])
        u = (np.sqrt(np.sqrt(size)) - _CODE_AT) * _CODE_BY
        high = F(0.000104259)
        high = high * u + F(-0.000206169335)
        high = high * u + F(0.000231768697)
        high = high * u + F(-0.000691271519)
        high = high * u + F(0.00248220669)
        high = high * u + F(-0.0110748931)
        high = high * u + F(0.148862444)
        high = high * u + F(0.66837564)
        high = high * u + F(0.545172232)
        root = size * F(12.92) if size <= F(0.0031308) else high
        line[x] = -root if line[x] < F(0) else root
