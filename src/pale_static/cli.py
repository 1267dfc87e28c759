"""The command line: the application's pixels without the application."""

from __future__ import annotations

import json
import re
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import wraps
from pathlib import Path
from typing import Any

import click
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from . import __version__
from .core.checking import findings, read_effect
from .core.document import Effect
from .core.engine import Engine
from .core.faults import Fault, Missing
from .core.footage import Footage, Materials
from .core.picture import Size, to_pixels
from .core.steps import step_kinds
from .core.timing import FrameRate, Moment
from .jobs import crew
from .media.opening import open_footage
from .media.packages import package_materials, read_package
from .media.sequences import Ready, open_writer, readier, room_for
from .media.stills import encode_png, write_file

say = Console(stderr=True, highlight=False)


def told(command: Callable[..., None]) -> Callable[..., None]:
    """Faults as one plain sentence and exit code 1."""

    @wraps(command)
    def run(*args: Any, **kwargs: Any) -> None:
        try:
            command(*args, **kwargs)
        except Fault as fault:
            say.print(fault.sentence, style="red", markup=False)
            sys.exit(1)

    return run


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="pale-static")
def main() -> None:
    """Procedural effects for video edits, packaged as macros."""


@main.command()
@click.option(
    "--data",
    default="data",
    show_default=True,
    type=click.Path(path_type=Path),
    help="Folder where everything is kept.",
)
@click.option("--port", default=8710, show_default=True, help="The next free one is used.")
@click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="Address to listen at; localhost only unless you say otherwise.",
)
@click.option("--demo", is_flag=True, help="Fill an empty data folder with the demo first.")
@click.option("--cache", default=1024, show_default=True, help="Memory for finished results, MB.")
@told
def serve(data: Path, port: int, host: str, demo: bool, cache: int) -> None:
    """Start the application."""
    from .serving import serve as run
    from .store import Library

    if demo:
        from .demo.fill import fill

        with Progress(console=say, transient=True) as bar:
            task = bar.add_task("Painting the demo footage", total=None)

            def note(name: str, done: int, total: int) -> None:
                bar.update(task, completed=done, total=total, description=f"Demo: {name}")

            fill(Library(data), told=note)
    run(data, host, port, cache_bytes=cache << 20, said=lambda text: click.echo(text, err=True))


@main.command()
@click.option("--json", "as_json", is_flag=True, help="Everything, as JSON.")
def steps(as_json: bool) -> None:
    """List the kinds of steps."""
    if as_json:
        click.echo(json.dumps([kind.describe() for kind in step_kinds()], indent=1))
        return
    table = Table(box=None, pad_edge=False)
    for heading in ("Kind", "Step", "Family", "What it does"):
        table.add_column(heading)
    for kind in step_kinds():
        table.add_row(kind.kind, kind.label, kind.family, kind.sentence)
    Console().print(table)


@dataclass(frozen=True)
class Opened:
    """An effect from a file, and the pictures and fonts that came with it."""

    effect: Effect
    brought: Materials


def open_file(path: Path, folder: Path) -> Opened:
    """An effect document or a ``.palemacro``, by its content."""
    if not path.is_file():
        raise Missing(f"There is no file {path}.")
    data = path.read_bytes()
    if data[:2] == b"PK":
        package = read_package(data, path.name)
        return Opened(package.macro.effect, package_materials(package, folder))
    return Opened(read_effect(data), Materials())


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@told
def check(file: Path) -> None:
    """Say whether an effect document or a macro is whole, and what is not."""
    with tempfile.TemporaryDirectory() as folder:
        opened = open_file(file, Path(folder))
    found = findings(opened.effect)
    for finding in found:
        say.print(f"{finding.where}: {finding.sentence}", style="yellow", markup=False)
    if found:
        sys.exit(1)
    effect = opened.effect
    count = sum(len(lane.steps) for lane in effect.lanes)
    click.echo(
        f"{effect.name} is whole: a {effect.kind} of {len(effect.lanes)} lanes, {count} steps "
        f"and {len(effect.controls)} controls."
    )


def parse_length(text: str | None, rate: FrameRate, effect: Effect) -> int:
    """``2s`` or ``50`` (frames); the effect's own length by default."""
    if text is None:
        return rate.frames(effect.seconds)
    found = re.fullmatch(r"(\d+(?:\.\d+)?)(s?)", text.strip())
    if not found or float(found[1]) <= 0 or (not found[2] and "." in found[1]):
        raise Fault(f"A length is written 2s, or 50 for frames. Got “{text}”.")
    return rate.frames(float(found[1])) if found[2] else int(found[1])


def parse_at(text: str, length: int, rate: FrameRate) -> int:
    """``50%``, ``1.2s`` or ``12`` (frame)."""
    found = re.fullmatch(r"(-?\d+(?:\.\d+)?)(%|s?)", text.strip())
    if not found:
        raise Fault(f"A moment is written 50%, 1.2s, or 12 for a frame. Got “{text}”.")
    number = float(found[1])
    if found[2] == "%":
        return round(number / 100 * (length - 1))
    return round(number * float(rate)) if found[2] else round(number)


def parse_setting(text: str, effect: Effect) -> tuple[str, Any]:
    """``slug=value``; the value as JSON where it is, else as text."""
    slug, mark, raw = text.partition("=")
    if not mark:
        raise Fault(f"A setting is written slug=value. Got “{text}”.")
    control = effect.control(slug)
    if control is None:
        there = ", ".join(c.slug for c in effect.controls) or "none"
        raise Missing(f"{effect.name} has no control “{slug}”. It has: {there}.")
    if control.type in ("text", "colour", "choice"):
        return slug, raw
    try:
        return slug, json.loads(raw)
    except ValueError:
        return slug, raw


def taking(command: Callable[..., None]) -> Callable[..., None]:
    """The options that ``frame`` and ``render`` share."""
    for option in (
        click.argument("file", type=click.Path(path_type=Path)),
        click.option("--size", default="960x540", show_default=True),
        click.option("--length", help="2s, or 50 for frames; the effect's own by default."),
        click.option("--rate", default="25", show_default=True, help="Frames a second."),
        click.option("--from", "first", help="The first clip of a transition."),
        click.option("--to", "second", help="The second clip of a transition."),
        click.option("--clip", help="The clip of a look or a title."),
        click.option(
            "--matte",
            "mattes",
            multiple=True,
            metavar="NAME=FILE",
            help="A file for any other slot.",
        ),
        click.option("--text", help="The text of a title."),
        click.option(
            "--set", "settings", multiple=True, metavar="SLUG=VALUE", help="Set a control."
        ),
        click.option("-o", "out", required=True, type=click.Path(path_type=Path)),
    )[::-1]:
        command = option(command)
    return command


@dataclass(frozen=True)
class Job:
    """Everything ``frame`` and ``render`` need."""

    effect: Effect
    size: Size
    rate: FrameRate
    length: int
    settings: dict[str, Any]
    materials: Materials


def prepare(folder: Path, given: dict[str, Any]) -> Job:
    """Read the options into what the engine takes."""
    opened = open_file(given["file"], folder)
    effect, rate = opened.effect, FrameRate.of(given["rate"])
    slots: dict[str, Footage] = {}
    named = [("from", given["first"]), ("to", given["second"]), ("clip", given["clip"])]
    for text in given["mattes"]:
        name, mark, path = text.partition("=")
        if not mark:
            raise Fault(f"A matte is written NAME=FILE. Got “{text}”.")
        named.append((name, path))
    for name, path in named:
        if path is None:
            continue
        if effect.slot(name) is None:
            there = ", ".join(slot.id for slot in effect.slots) or "none"
            raise Missing(f"{effect.name} has no slot “{name}”. It has: {there}.")
        slots[name] = open_footage(path)
    settings = dict(parse_setting(text, effect) for text in given["settings"])
    if given["text"] is not None:
        control = next((c for c in effect.controls if c.type == "text"), None)
        if control is None:
            raise Missing(f"{effect.name} takes no text.")
        settings[control.slug] = given["text"]
    return Job(
        effect, Size.parse(given["size"]), rate, parse_length(given["length"], rate, effect),
        settings, replace(opened.brought, slots=slots),
    )  # fmt: skip


@main.command()
@taking
@click.option("--at", default="50%", show_default=True, help="50%, 1.2s, or 12 for a frame.")
@click.option("--stage", help="One step's result: lane.step.")
@click.option("--cost", is_flag=True, help="Say what each step took.")
@told
def frame(at: str, stage: str | None, cost: bool, out: Path, **given: Any) -> None:
    """One frame of an effect, as PNG: the application's pixels exactly."""
    if out.suffix != ".png":
        raise Fault(f"A frame is written as PNG. Name it out.png, not {out.name}.")
    with tempfile.TemporaryDirectory() as folder:
        job = prepare(Path(folder), given)
        moment = Moment(parse_at(at, job.length, job.rate), job.length, job.rate)
        place = None
        if stage:
            lane, _, step = stage.partition(".")
            place = (lane, step)
        found = Engine().evaluate(
            job.effect, moment, job.size,
            stage=place, settings=job.settings, materials=job.materials,
        )  # fmt: skip
        write_file(out, encode_png(to_pixels(found.picture)))
    if cost:
        for one in found.costs:
            click.echo(f"{'.'.join(one.place):40} {one.ms:8.2f} ms {one.bytes / 1e6:8.2f} MB")
    click.echo(f"{out}: frame {moment.frame} of {job.length}, {found.ms:.1f} ms")


@dataclass(frozen=True)
class FileFilm:
    """All frames of an effect from a file, as ``render`` was asked for them."""

    given: dict[str, Any]
    out: Path

    def maker(self) -> crew.Maker:
        return _Making(self)


class _Making:
    """Makes the frames of a film, and keeps what the file unpacked to for as long as it does."""

    def __init__(self, film: FileFilm) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.job = prepare(Path(self.folder.name), film.given)
        self.engine, self.ready = Engine(crew.CACHE_BYTES), readier(film.out)

    def __call__(self, index: int) -> Ready:
        job = self.job
        found = self.engine.evaluate(
            job.effect, Moment(index, job.length, job.rate), job.size,
            settings=job.settings, materials=job.materials, passing=True,
        )  # fmt: skip
        return self.ready(found.picture)


@main.command()
@taking
@click.option("--workers", type=click.IntRange(1, 64), help="Processes; as many as cores.")
@told
def render(out: Path, workers: int | None, **given: Any) -> None:
    """All frames of an effect: out.mp4, or frames_%04d.png for 16-bit pictures."""
    with tempfile.TemporaryDirectory() as folder:
        job = prepare(Path(folder), given)
    writer, film = open_writer(out, job.size, job.rate), FileFilm(given, out)
    count = crew.workers_for(job.length, job.size, workers)
    try:
        with Progress(console=say, transient=True) as bar:
            made = crew.frames(film, range(job.length), count, room=room_for(out, job.size))
            for index, ready in bar.track(made, job.length, description=job.effect.name):
                writer.put(index, ready)
        written = writer.finish()
    except BaseException:
        writer.abandon()
        raise
    click.echo(f"{written[0]}: {job.length} frames, {job.size.width}×{job.size.height}")


if __name__ == "__main__":
    main()
