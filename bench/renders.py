"""Whole renders, from command to finished file: against FFmpeg, how busy the cores are, memory."""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
import tempfile
from functools import cache
from pathlib import Path
from statistics import median

import cv2

from pale_static.core import FrameRate
from pale_static.demo.clips import CLIPS
from pale_static.media.films.film_writer import write_clip
from pale_static.media.formats import FORMATS, Encoding, Format, format_of

from .films import MIB, peak_of
from .measure import Row, multiple, once
from .noise import WIPE

RATE = FrameRate.of(25)
FRAMES = 50
SIZES = {"1280×720": (1280, 720), "1920×1080": (1920, 1080)}
ROUNDS = 5


@cache
def _clips(width: int, height: int) -> tuple[str, str]:
    folder = Path(tempfile.mkdtemp(prefix="bench-"))
    paths = []
    for k in (0, 1):
        frames = (cv2.resize(CLIPS[k].frame(n * 3), (width, height)) for n in range(FRAMES))
        path = folder / f"{k}.mp4"
        write_clip(path, Encoding(format_of("mp4"), 16), RATE, frames)
        paths.append(str(path))
    return paths[0], paths[1]


def _wipe(folder: Path) -> Path:
    """The noise wipe, moving over its whole length."""
    document = json.loads(json.dumps(WIPE))
    document["lanes"][3]["steps"][1]["values"]["progress"] = {"formula": "progress"}
    path = folder / "wipe.json"
    path.write_text(json.dumps(document))
    return path


def _busy(command: list[str]) -> tuple[float, float]:
    """Milliseconds of a command, and the share of all cores it kept busy."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    took = once(lambda: subprocess.run(command, check=True, stdout=subprocess.DEVNULL))
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    spent = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    return took, spent * 1000 / took / (os.cpu_count() or 1)


def against_ffmpeg() -> list[Row]:
    """A noise wipe of two films against FFmpeg's fade of the same, at the same settings."""
    rows = []
    for name, slug in (("1280×720", "mp4"), ("1920×1080", "mp4"), ("1920×1080", "ffv1")):
        width, height = SIZES[name]
        one, two = _clips(width, height)
        form = format_of(slug)
        with tempfile.TemporaryDirectory() as text:
            folder = Path(text)
            ours = [
                sys.executable, "-m", "pale_static", "render", str(_wipe(folder)), "--size",
                f"{width}x{height}", "--length", str(FRAMES), "--rate", "25", "--from", one,
                "--to", two, "-o", str(folder / f"ours{form.ending}"),
            ]  # fmt: skip
            theirs = [sys.executable, "-m", "bench.fade", one, two,
                      str(folder / f"theirs{form.ending}"), slug]  # fmt: skip
            _busy(ours)
            pairs = [(_busy(ours), _busy(theirs)) for _ in range(ROUNDS)]
        mine = median(pair[0][0] for pair in pairs)
        other = median(pair[1][0] for pair in pairs)
        ratio = median(pair[0][0] / pair[1][0] for pair in pairs)
        rows.append(
            Row(
                f"noise wipe to {form.label}, {FRAMES} frames {name}, command to file", mine,
                "FFmpeg xfade=fade", other, ratio, "1.2× its time", "0.9×", ratio <= 1.2,
            )
        )  # fmt: skip
        if slug == "mp4" and name == "1920×1080":
            busy, reference = (median(pair[k][1] for pair in pairs) * 100 for k in (0, 1))
            rows.append(
                Row(
                    f"share of the cores that this keeps busy, {os.cpu_count()} cores", busy,
                    "FFmpeg", reference, busy / reference, "as busy as FFmpeg", "95 %",
                    busy >= 0.98 * reference, unit="%",
                )
            )  # fmt: skip
    return rows


def start_of_a_film() -> Row:
    """Two frames of the noise wipe, command to file: almost all of it is the start."""
    one, two = _clips(*SIZES["1920×1080"])
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        command = [
            sys.executable, "-m", "pale_static", "render", str(_wipe(folder)), "--size", "1920x1080",
            "--length", "2", "--rate", "25", "--from", one, "--to", two,
            "-o", str(folder / "two.mp4"),
        ]  # fmt: skip
        bare = [sys.executable, "-c", "pass"]
        _busy(command)
        pairs = [(_busy(command)[0], _busy(bare)[0]) for _ in range(ROUNDS)]
    mine, other = (median(pair[k] for pair in pairs) for k in (0, 1))
    return multiple("two frames of a noise wipe at 1920×1080, command to file", mine,
                    "Python that does nothing", other, mine / other, 75, 40)  # fmt: skip


SHORT, LONG = 60, 2400
GROWTH = 24
"""MiB that a process may use more at the end of the long render, because its allocator keeps
them."""


def _flat(form: Format) -> Row:
    texture = {
        "name": "Static", "kind": "texture",
        "lanes": [{"id": "out", "name": "Out", "steps": [
            {"id": "n", "kind": "noise", "values": {"speed": 1.0, "cells": 3}}]}],
    }  # fmt: skip
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        (folder / "t.json").write_text(json.dumps(texture))
        held = []
        for length in (SHORT, LONG):
            name = f"f_%05d{form.ending}" if form.numbered else f"out{form.ending}"
            command = [
                sys.executable, "-m", "pale_static", "render", str(folder / "t.json"), "--size",
                "160x90", "--length", str(length), "--format", form.slug, "-o", str(folder / name),
            ]  # fmt: skip
            held.append(peak_of(command) / MIB)
    short, long = held
    return Row(
        f"memory of {LONG} frames of {form.label}, 160×90", long, f"{SHORT} frames", short,
        long / short, f"at most {GROWTH} MiB more", "flat", long - short <= GROWTH, unit="MiB",
    )  # fmt: skip


def memory_of_formats() -> list[Row]:
    """The most memory of a short and of a long render, for every format with frames."""
    return [_flat(form) for form in FORMATS if form.shape not in ("still", "sheet")]


ROWS = (start_of_a_film, against_ffmpeg, memory_of_formats)
