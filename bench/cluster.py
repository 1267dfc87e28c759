"""A cluster with one worker on this machine, against the local render of the same film."""

from __future__ import annotations

import os
import tempfile
from dataclasses import replace
from functools import partial
from pathlib import Path
from statistics import median
from typing import Any

import cv2

from pale_static.core import FrameRate
from pale_static.demo.clips import CLIPS
from pale_static.jobs.cluster import task
from pale_static.jobs.cluster.carrier import TICK, ClusterCarrier, Seen
from pale_static.jobs.cluster.membership import Cluster
from pale_static.jobs.cluster.opened import OpenedFilm
from pale_static.jobs.cluster.sealed import Sealing, unpacked_film
from pale_static.jobs.effect_files import EffectFile
from pale_static.jobs.films import Film, maker_of, write
from pale_static.media.films.film_writer import write_clip
from pale_static.media.films.stretches import sizes_of
from pale_static.media.formats import Encoding, format_of
from pale_static.media.kept_files import KeptFiles
from tests.cluster import RealCluster

from .measure import Row, once
from .renders import _wipe
from .simulation import Costs, simulated, table

SIZE, FRAMES, ROUNDS = (960, 540), 300, 2
MOST, AIM = 1.25, 1.1
GIGABIT, LOOPBACK, TEN_MINUTES = 125e6, 1e9, 15_000
"""Bytes a second of a network and within this machine; frames of ten minutes."""


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


def _small_costs(folder: Path, clips: list[str], cluster: Cluster) -> Costs:
    """What a render costs besides its frames, measured part by part."""
    film = _film(folder, clips, "parts")
    sealing = Sealing(folder)
    packed = sealing.of(film).packed()

    def opened() -> None:
        made = OpenedFilm(unpacked_film(packed), lambda key: sealing.files[key]).film
        maker_of(made.source, made.form)(0)

    def handed() -> None:
        cluster.client.submit(task.introduce, pure=False).result()

    (folder / "kept").mkdir()
    film = replace(film, stretches=KeptFiles(folder / "kept", 1 << 34))
    write(film, workers=1)
    stretch = next((folder / "kept").iterdir())
    opened()
    handed()
    return Costs(
        opening=median(once(opened) for _ in range(5)) / 1e3,
        # The carrier looks for finished tasks every TICK.
        handing=median(once(handed) for _ in range(5)) / 1e3 + TICK / 2,
        frame=0,
        taking=median(once(lambda: sizes_of(stretch)) for _ in range(5)) / 1e3,
        # All stretches exist, so only their names are made and they are joined.
        joining=median(once(lambda: write(film, workers=1)) for _ in range(3)) / 1e3 / FRAMES,
        media=0, sent=(folder / "parts.mp4").stat().st_size / FRAMES, network=LOOPBACK,
    )  # fmt: skip


def simulation_against_measured_runs() -> list[Row]:
    """Renders with one, two and three workers of one core each, and what the model says of them.

    The cost of a frame comes from the run with one worker, the others are measured by themselves;
    the runs with two and three workers test the model. Then it says how long a ten-minute edit takes
    with more workers.
    """
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        clips = _clips(folder)
        media = sum(Path(one).stat().st_size for one in clips)
        took: dict[int, float] = {}
        used, costs = 0.0, None
        for count in (1, 2, 3):
            (folder / str(count)).mkdir()
            cores = {"PALE_STATIC_CORES": "1"}
            with RealCluster(folder / str(count), count, environment=cores) as real:
                cluster = Cluster(real.address)
                carrier = ClusterCarrier(cluster)
                # After this run workers have their media.
                write(_film(folder, clips, "warm"), carrier=carrier)
                before, film = _processor_seconds(real), _film(folder, clips, "made")
                took[count] = once(partial(write, film, carrier=carrier)) / 1e3
                if count == 1:
                    used = (_processor_seconds(real) - before) / took[1]
                    costs = _small_costs(folder, clips, cluster)
                cluster.close()
    assert costs is not None
    besides = simulated(costs, 1, FRAMES).seconds
    costs = replace(costs, frame=(took[1] - besides) / FRAMES)
    rows = []
    for count in (2, 3):
        said = simulated(costs, count, FRAMES, cores=(os.cpu_count() or 1) / used).seconds
        rows.append(
            Row(
                f"{count} workers of one core: the simulation", said * 1e3, "the measured run",
                took[count] * 1e3, said / took[count], "0.8× to 1.25× of it", "1×",
                0.8 <= said / took[count] <= 1.25,
            )
        )  # fmt: skip
    print(
        f"  one worker of one core: {took[1]:.1f} s, which keeps {used:.2f} cores busy; "
        f"a frame {costs.frame * 1e3:.1f} ms, opening {costs.opening * 1e3:.0f} ms, handing "
        f"{costs.handing * 1e3:.0f} ms, taking {costs.taking * 1e3:.1f} ms, joining "
        f"{costs.joining * 1e3:.2f} ms a frame, media {media / FRAMES / 1e3:.0f} kB and film "
        f"{costs.sent / 1e3:.0f} kB a frame"
    )
    ten = replace(costs, media=media / FRAMES, network=GIGABIT)
    for workers, outcome, best in table(ten, TEN_MINUTES):
        shortest = simulated(ten, workers, TEN_MINUTES, best).seconds
        print(
            f"  {workers:5} workers: {outcome.seconds:7.1f} s, computing {outcome.computing:.0%}, "
            f"connection {outcome.network:.0%}; {shortest:.1f} s with stretches of {best} frames"
        )
    return rows


def _processor_seconds(real: RealCluster) -> float:
    """Seconds of processor time that the workers have used."""
    import psutil

    times = [psutil.Process(one.pid).cpu_times() for one in real.workers]
    return sum(one.user + one.system for one in times)


ROWS = (one_worker_against_this_machine, simulation_against_measured_runs)
