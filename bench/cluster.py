"""A cluster with one worker on this machine, against the local render of the same film."""

from __future__ import annotations

import os
import tempfile
from dataclasses import replace
from pathlib import Path
from statistics import median
from typing import Any

import cv2

from pale_static.core import FrameRate
from pale_static.demo.clips import CLIPS
from pale_static.jobs.cluster.carrier import ClusterCarrier, Seen
from pale_static.jobs.cluster.membership import Cluster
from pale_static.jobs.effect_files import EffectFile
from pale_static.jobs.films import Film, write
from pale_static.media.films.film_writer import write_clip
from pale_static.media.formats import Encoding, format_of
from pale_static.media.runs import STRETCH
from tests.cluster import RealCluster

from .measure import Row, once
from .renders import _wipe
from .simulation import Costs, simulated, table

SIZE, FRAMES, ROUNDS = (960, 540), 300, 2
MOST, AIM = 1.25, 1.1
OPENING, HANDING, TAKING, JOINING = 0.3, 0.15, 0.02, 0.05
"""Seconds to open a film that was open before, between two stretches, to take one, and to join all of
them (measured on two cores)."""
GIGABIT, TEN_MINUTES = 125e6, 15_000
"""Bytes a second of a network, and frames of ten minutes."""


def _film(folder: Path, clips: list[str], name: str) -> Film:
    given: dict[str, Any] = {
        "file": _wipe(folder), "size": f"{SIZE[0]}x{SIZE[1]}", "rate": "25",
        "length": str(FRAMES), "first": clips[0], "second": clips[1], "clip": None, "slots": (),
        "mattes": (), "settings": (), "text": None,
    }  # fmt: skip
    recipe = EffectFile(given)
    return Film(recipe.open(True), Encoding(format_of("mp4")), folder / f"{name}.mp4", recipe)


def _clips(folder: Path) -> list[str]:
    encoding = Encoding(format_of("mp4"), 16)
    return [
        str(write_clip(folder / f"clip-{k}.mp4", encoding, FrameRate.of(25),
                       (cv2.resize(CLIPS[k].frame(n), SIZE) for n in range(FRAMES))))
        for k in (0, 1)
    ]  # fmt: skip


def one_worker_against_this_machine() -> list[Row]:
    """The overhead of a cluster, and the bytes that its worker fetches."""
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        clips = _clips(folder)
        size = sum(Path(one).stat().st_size for one in clips)
        fetched = 0

        def watch(seen: Seen) -> None:
            nonlocal fetched
            fetched = max(fetched, sum(one.fetched + one.fetched_now for one in seen.members))

        with RealCluster(folder, 1) as real:
            cluster = Cluster(real.address)
            carrier = ClusterCarrier(cluster, watch)
            write(_film(folder, clips, "first"), carrier=carrier)
            first = fetched
            pairs = [
                (
                    once(lambda: write(_film(folder, clips, "there"), carrier=carrier)),
                    once(lambda: write(_film(folder, clips, "here"), workers=1)),
                )
                for _ in range(ROUNDS)
            ]
            cluster.close()
        same = (folder / "there.mp4").read_bytes() == (folder / "here.mp4").read_bytes()
    ratio = median(there / here for there, here in pairs)
    return [
        Row(
            f"{FRAMES} frames at 960×540 by a cluster of one worker, same bytes: {same}",
            median(there for there, _ in pairs), "the local render",
            median(here for _, here in pairs), ratio, f"at most {MOST}×", f"{AIM}×",
            ratio <= MOST and same,
        ),
        Row(
            "bytes that a worker fetches for its first film", first / 1e6, "its clips", size / 1e6,
            first / size, "at most 1.01×", "1×", first <= 1.01 * size, "MB",
        ),
    ]  # fmt: skip


def simulation_against_measured_runs() -> list[Row]:
    """Renders with one, two and three workers of one core each, and what the model says of them.

    The model's costs come from the run with one worker; those with two and three test it. Then it says
    how long a ten-minute edit takes with more workers.
    """
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        clips = _clips(folder)
        media = sum(Path(one).stat().st_size for one in clips)
        took, used = {}, 0.0
        for count in (1, 2, 3):
            (folder / str(count)).mkdir()
            with RealCluster(
                folder / str(count), count, environment={"PALE_STATIC_CORES": "1"}
            ) as real:
                cluster = Cluster(real.address)
                carrier = ClusterCarrier(cluster)
                # Workers compile nothing and have their media from this run on.
                write(_film(folder, clips, "warm"), carrier=carrier)
                before = _processor_seconds(real)
                took[count] = (
                    once(lambda c=carrier: write(_film(folder, clips, "made"), carrier=c)) / 1e3
                )
                if count == 1:
                    used = (_processor_seconds(real) - before) / took[1]
                cluster.close()
        sent = (folder / "made.mp4").stat().st_size
    stretches = FRAMES // STRETCH
    costs = Costs(
        opening=OPENING, handing=HANDING, frame=0, taking=TAKING, joining=JOINING / FRAMES,
        media=0, sent=sent / FRAMES, network=1e9,
    )  # fmt: skip
    frame = (took[1] - OPENING - stretches * (HANDING + TAKING) - JOINING) / FRAMES
    costs = replace(costs, frame=frame)
    cores = (os.cpu_count() or 1) / used
    rows = []
    for count in (2, 3):
        said = simulated(costs, count, FRAMES, cores=cores).seconds
        rows.append(
            Row(
                f"{count} workers of one core: the simulation", said * 1e3, "the measured run",
                took[count] * 1e3, said / took[count], "0.8× to 1.25× of it", "1×",
                0.8 <= said / took[count] <= 1.25,
            )
        )  # fmt: skip
    print(f"  one worker of one core: {took[1]:.1f} s, {frame * 1e3:.1f} ms a frame, "
          f"{used:.2f} processor seconds a second")  # fmt: skip
    ten = replace(costs, media=media / FRAMES, network=GIGABIT)
    for workers, outcome, best in table(ten, TEN_MINUTES):
        print(
            f"  {workers:5} workers: {outcome.seconds:7.1f} s, computing {outcome.computing:.0%}, "
            f"connection {outcome.network:.0%}, best stretch {best} frames"
        )
    return rows


def _processor_seconds(real: RealCluster) -> float:
    """Seconds of processor time that the workers have used."""
    import psutil

    times = [psutil.Process(one.pid).cpu_times() for one in real.workers]
    return sum(one.user + one.system for one in times)


ROWS = (one_worker_against_this_machine, simulation_against_measured_runs)
