"""Machines with and without AVX-512 compute the same bits, and others are told apart."""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import sys
from typing import Any

import cv2
import llvmlite.binding as llvm
import numpy as np
import pytest

from pale_static.core import Engine, Size
from pale_static.core.kernels import objects
from pale_static.media import program as programs

from .documents import KINDS, at
from .test_every_step import CLIP, one

SMALL = Size(160, 90)
AVX2_ALONE = {
    "OPENCV_CPU_DISABLE": "AVX512-SKX",
    "OPENCV_IPP": "avx2",
    "NPY_DISABLE_CPU_FEATURES": "X86_V4",
    "OPENBLAS_CORETYPE": "Haswell",
    "GLIBC_TUNABLES": "glibc.cpu.hwcaps=-AVX512F,-AVX512VL,-AVX512BW,-AVX512DQ",
}
"""The switches of libraries that make them leave AVX-512 out, from their documentation."""


def digests() -> dict[str, str]:
    """A digest of the floats of every step's result at its defaults."""
    found = {}
    for kind in KINDS:
        plane = Engine().evaluate(one(kind), at(12), SMALL, materials=CLIP).plane
        plain = np.ascontiguousarray(plane).tobytes()
        found[kind.kind] = hashlib.blake2b(plain, digest_size=8).hexdigest()
    return found


@pytest.mark.skipif(objects.target()[0] != objects.BASELINE, reason="needs AVX2")
def test_every_step_has_the_same_bits_without_avx_512() -> None:
    script = (
        "import json; from tests.core.test_same_bits import digests; print(json.dumps(digests()))"
    )
    apart = subprocess.run(
        [sys.executable, "-c", script], env=os.environ | AVX2_ALONE, check=True,
        capture_output=True, text=True,
    )  # fmt: skip
    assert json.loads(apart.stdout.splitlines()[-1]) == digests()


def test_kernels_are_compiled_for_one_processor_where_it_has_the_instructions(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    class Features(dict[str, bool]):
        def flatten(self) -> str:
            return ",".join(self)

    def target_with(**features: bool) -> tuple[str, str]:
        objects.target.cache_clear()
        monkeypatch.setattr(llvm, "get_host_cpu_features", lambda: Features(features))
        return objects.target()

    # The System V ABI for AMD64, table 3.1, names the instructions of x86-64-v3.
    third = dict.fromkeys(("avx", "avx2", "bmi", "bmi2", "f16c", "fma", "lzcnt", "movbe"), True)
    try:
        assert target_with(**third) == ("x86-64-v3", "")
        assert target_with(**third, avx512f=True) == ("x86-64-v3", "")
        assert target_with(**third | {"fma": False})[0] == llvm.get_host_cpu_name()
    finally:
        objects.target.cache_clear()


def test_the_rounding_tells_apart_what_gives_other_bits(monkeypatch: pytest.MonkeyPatch) -> None:
    def told(line: str, filters: str = "ippIP AVX2 (l9)", on: bool = True) -> Any:
        programs.rounding.cache_clear()
        monkeypatch.setattr(cv2, "getCPUFeaturesLine", lambda: line)
        monkeypatch.setattr(cv2.ipp, "getIppVersion", lambda: filters)
        monkeypatch.setattr(cv2.ipp, "useIPP", lambda: on)
        return programs.rounding()

    try:
        with_avx2 = told("SSE *AVX *AVX2 *AVX512-SKX?")
        assert told("SSE *AVX *AVX2 *AVX512-SKX", "ippIP AVX-512F (k0)") == with_avx2
        assert told("SSE *AVX *AVX2? *AVX512-SKX?") != with_avx2
        assert told("SSE *AVX *AVX2", on=False) != with_avx2
    finally:
        programs.rounding.cache_clear()
