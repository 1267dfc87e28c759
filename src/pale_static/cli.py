"""The command line: the application's pixels without the application.

Commands import modules when they run, so that help appears at once.
"""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Any

import click

from . import __version__
from .core.faults import Fault


def warn(text: str) -> None:
    """A line on standard error."""
    click.echo(text, err=True)


def told(command: Callable[..., None]) -> Callable[..., None]:
    """Faults as one plain sentence and exit code 1."""

    @wraps(command)
    def run(*args: Any, **kwargs: Any) -> None:
        try:
            command(*args, **kwargs)
        except Fault as fault:
            click.secho(fault.sentence, fg="red", err=True)
            sys.exit(1)

    return run


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="pale-static")
def main() -> None:
    """Procedural effects for video edits, packaged as macros."""


def on_data(command: Callable[..., None]) -> Callable[..., None]:
    """The option that names the data folder."""
    return click.option(
        "--data",
        default="data",
        show_default=True,
        type=click.Path(path_type=Path),
        help="The data folder.",
    )(command)


@main.command()
@on_data
@click.option(
    "--port",
    default=8710,
    show_default=True,
    type=click.IntRange(0, 65535),
    help="The next free one is used.",
)
@click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="Address to listen at; this machine only unless you say otherwise, and then with a key.",
)
@click.option("--demo", is_flag=True, help="Fill an empty data folder with the demo.")
@click.option("--cache", default=1024, show_default=True, help="Memory for finished results, MB.")
@click.option(
    "--frames",
    default=2048,
    show_default=True,
    type=click.IntRange(0, 10**7),
    help="Room on the disk for frames that pages show, MB.",
)
@click.option("--scheduler", metavar="ADDRESS", help="Send new renders to this Dask scheduler.")
@told
def serve(
    data: Path, port: int, host: str, demo: bool, cache: int, frames: int, scheduler: str | None
) -> None:  # fmt: skip
    """Start the application."""
    from .serving import serve as run

    run(
        data, host, port, demo=demo, cache_bytes=cache << 20, frame_bytes=frames << 20,
        scheduler=scheduler, said=warn,
    )  # fmt: skip


@main.command()
@on_data
@click.option("--mend", is_flag=True, help="Repair everything that can be repaired.")
@told
def doctor(data: Path, mend: bool) -> None:
    """Check a data folder, and repair it with --mend."""
    from .jobs.doctor import examine
    from .store.folder_lock import FolderLock

    lock = FolderLock(data.resolve()) if mend and data.is_dir() else None
    found = mended = 0
    for finding in examine(data.resolve()):
        found += 1
        click.echo(finding.sentence)
        if not finding.mending:
            continue
        if lock and finding.mend:
            try:
                finding.mend()
                mended += 1
                click.secho(f"  Mended: {finding.mending}.", fg="green")
            except (Fault, OSError) as fault:
                click.secho(f"  Could not be mended: {fault}", fg="red")
        else:
            click.echo(f"  To mend: {finding.mending}.")
    if not found:
        click.echo(f"{data} is whole.")
    elif found > mended:
        if not lock:
            click.echo("Run it again with --mend to repair what can be repaired.")
        sys.exit(1)


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@on_data
@told
def backup(file: Path, data: Path) -> None:
    """Copy a data folder to one file, also while the application runs."""
    from .jobs.backup import backup as write

    made = write(data.resolve(), file.resolve())
    click.echo(f"{file}: {made.files} materials, {made.bytes / 1e6:.1f} MB")


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@on_data
@told
def restore(file: Path, data: Path) -> None:
    """Fill an empty data folder from a backup."""
    from .jobs.backup import restore as read

    found = read(file.resolve(), data.resolve())
    click.echo(f"{data} holds {found.files} materials again.")


@main.command()
@click.option("--json", "as_json", is_flag=True, help="Everything, as JSON.")
def steps(as_json: bool) -> None:
    """List the kinds of steps."""
    from .core.steps import step_kinds

    if as_json:
        click.echo(json.dumps([kind.describe() for kind in step_kinds()], indent=1))
        return
    from rich.console import Console
    from rich.table import Table

    table = Table(box=None, pad_edge=False)
    for heading in ("Kind", "Step", "Family", "What it does"):
        table.add_column(heading)
    for kind in step_kinds():
        table.add_row(kind.kind, kind.label, kind.family, kind.sentence)
    Console().print(table)


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@told
def check(file: Path) -> None:
    """Check an effect document or a macro, and list its problems."""
    from .core.documents.checking import findings
    from .jobs.effect_files import open_effect

    with tempfile.TemporaryDirectory() as folder:
        effect, _ = open_effect(file, Path(folder))
    open_points = findings(effect)
    for finding in open_points:
        click.secho(f"{finding.where}: {finding.sentence}", fg="yellow", err=True)
    if open_points:
        sys.exit(1)
    count = sum(len(lane.steps) for lane in effect.lanes)
    click.echo(
        f"{effect.name} is valid: a {effect.kind} of {len(effect.lanes)} lanes, {count} steps "
        f"and {len(effect.faceplate)} controls."
    )


def renamed(new: str) -> Callable[[click.Context, click.Parameter, Any], Any]:
    """A callback that warns about the old name of an option."""

    def say(_: click.Context, param: click.Parameter, value: Any) -> Any:
        if value:
            warn(
                f"{param.opts[0]} is now called {new}. The next version will not know the old name."
            )
        return value

    return say


def taking(command: Callable[..., None]) -> Callable[..., None]:
    """The options that ``frame`` and ``render`` share."""
    for option in (
        click.argument("file", type=click.Path(path_type=Path)),
        click.option("--size", default="960x540", show_default=True),
        click.option("--length", help="2s, or 50 for frames; the effect's own by default."),
        click.option("--rate", help="Frames a second; the effect's own by default."),
        click.option("--from", "first", help="The first clip of a transition."),
        click.option("--to", "second", help="The second clip of a transition."),
        click.option("--clip", help="The clip of a look or a title."),
        click.option(
            "--slot", "slots", multiple=True, metavar="NAME=FILE", help="A file for any other slot."
        ),
        click.option("--matte", "mattes", multiple=True, hidden=True, callback=renamed("--slot")),
        click.option("--text", help="The text of a title."),
        click.option(
            "--set", "settings", multiple=True, metavar="SLUG=VALUE", help="Set a control."
        ),
        click.option("-o", "out", required=True, type=click.Path(path_type=Path)),
    )[::-1]:
        command = option(command)
    return command


@main.command()
@taking
@click.option("--at", default="50%", show_default=True, help="50%, 1.2s, or 12 for a frame.")
@click.option("--step", help="One step's result: lane.step.")
@click.option("--stage", hidden=True, callback=renamed("--step"))
@click.option("--cost", is_flag=True, help="Print the cost of each step.")
@told
def frame(
    at: str, step: str | None, stage: str | None, cost: bool, out: Path, **given: Any
) -> None:
    """One frame of an effect, as PNG: the application's pixels exactly."""
    from .jobs.effect_files import write_frame

    moment, evaluation = write_frame(given, out, at, step or stage)
    if cost:
        for one in evaluation.costs:
            click.echo(f"{'.'.join(one.place):40} {one.ms:8.2f} ms {one.bytes / 1e6:8.2f} MB")
    click.echo(f"{out}: frame {moment.frame} of {moment.length}, {evaluation.ms:.1f} ms")


def writing(command: Callable[..., None]) -> Callable[..., None]:
    """The options that set how a film is written."""
    for option in (
        click.option("--format", "form", help="The format, if several have one file ending."),
        click.option("--quality", help="A word or a number of the format; see “formats”."),
        click.option("--bit-rate", type=int, metavar="KBIT", help="kbit/s in place of a quality."),
        click.option(
            "--workers", type=click.IntRange(1, 64), help="Processes that compute side by side."
        ),
        click.option(
            "--scheduler", metavar="ADDRESS",
            help="Have it made by the workers of a Dask scheduler: tcp://127.0.0.1:8786, or tls://…",
        ),
        click.option(
            "--reach", metavar="HOST[:PORT]", default="",
            help="Where those workers reach this machine; found by itself unless you say.",
        ),
        click.option(
            "--or-here", is_flag=True, help="Make the rest here if those workers cannot make it."
        ),
    )[::-1]:  # fmt: skip
        command = option(command)
    return command


def carrier_for(scheduler: str | None, reach: str, or_here: bool) -> Any:
    """What carries a film to other machines; None to make it here."""
    if scheduler is None:
        return None
    from .jobs.cluster.carrier import ClusterCarrier
    from .jobs.cluster.membership import Cluster

    last = ""

    def watch(seen: Any) -> None:
        nonlocal last
        if seen.sentence and seen.sentence != last:
            warn(seen.sentence)
        last = seen.sentence

    return ClusterCarrier(Cluster(scheduler, reach), watch, or_here)


def encoding_for(out: Path, form: str | None, quality: str | None, bit_rate: int | None) -> Any:
    """The encoding of a file, by its name and the options."""
    from .media.formats import Encoding, format_for, parse_quality

    chosen = format_for(out, form)
    return Encoding(chosen, parse_quality(chosen, quality), bit_rate)


@main.command()
@taking
@writing
@click.option(
    "--layer", "layers", multiple=True, metavar="LANE.STEP",
    help="OpenEXR: the result of a step as a layer beside the picture.",
)  # fmt: skip
@told
def render(
    out: Path, form: str | None, quality: str | None, bit_rate: int | None, workers: int | None,
    scheduler: str | None, reach: str, or_here: bool, layers: tuple[str, ...], **given: Any,
) -> None:  # fmt: skip
    """All frames of an effect: out.mp4, frames_%04d.png and more, by the name of the file."""
    from rich.console import Console
    from rich.progress import Progress

    from .jobs.effect_files import EffectFile
    from .jobs.films import Film, write

    encoding, recipe = encoding_for(out, form, quality, bit_rate), EffectFile(given)
    source = recipe.open()
    film = Film(source, encoding, out, recipe, layers)
    carrier = carrier_for(scheduler, reach, or_here)
    with Progress(console=Console(stderr=True, highlight=False), transient=True) as bar:
        first, *_ = write(film, workers, bar.track, carrier)
    click.echo(f"{first}: {source.length} frames, {source.size.width}×{source.size.height}")


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("-o", "out", type=click.Path(path_type=Path), help="What to write; by its name.")
@click.option(
    "--media", multiple=True, type=click.Path(path_type=Path),
    help="A folder with media, besides that of the edit.",
)  # fmt: skip
@click.option("--data", type=click.Path(path_type=Path), help="A data folder with macros.")
@click.option("--macro", help="A .palemacro file, a macro of --data, dissolve or wipe.")
@click.option("--on", default="all-cuts", show_default=True, help="all-cuts, cut:2 or all-shots.")
@click.option("--set", "settings", multiple=True, metavar="SLUG=VALUE", help="Set a control.")
@click.option("--rate", help="Frames a second of an edit list, which does not say them.")
@click.option("--at", default="0", show_default=True, help="For one frame: 50%, 1.2s or 12.")
@click.option("--clear", is_flag=True, help="Leave empty areas clear, in formats with alpha.")
@click.option("--check", is_flag=True, help="Print what does not match, and write nothing.")
@writing
@told
def edit(
    out: Path | None, at: str, check: bool, form: str | None, quality: str | None,
    bit_rate: int | None, workers: int | None, scheduler: str | None, reach: str, or_here: bool,
    **given: Any,
) -> None:  # fmt: skip
    """Render, check or convert an edit from .otio or .edl, or take one frame (-o f.png)."""
    from .jobs.edit_files import ENDINGS, EditFile, handed_on
    from .jobs.effect_files import parse_at
    from .media.pictures.stills import write_file

    if out is None and not check:
        raise Fault("Name the file to write with -o, or check the edit with --check.")
    recipe = EditFile(given)
    read = recipe.read()
    reel = read.reel
    for sentence in read.mismatches():
        click.secho(sentence, fg="yellow", err=True)
    convert = out is not None and out.suffix.lower() in ENDINGS
    if convert and out is not None:
        text, left = handed_on(reel, read.shelf.media, out.suffix.lower())
        for sentence in left:
            click.secho(sentence, fg="yellow", err=True)
        write_file(out, text.encode())
        click.echo(f"{out}: {len(reel.shots)} shots, {reel.length} frames")
    if check:
        click.echo(f"{reel.name}: {len(reel.shots)} shots, {len(reel.joins)} joins,"
                   f" {reel.length} frames at {reel.rate} a second")  # fmt: skip
    if check or convert:
        return
    assert out is not None
    from rich.console import Console
    from rich.progress import Progress

    from .jobs.films import Film, write

    frame = 0
    if out.suffix == ".png" and "%" not in out.name:
        form, frame = form or "still", parse_at(at, reel.length, reel.frame_rate)
    encoding = encoding_for(out, form, quality, bit_rate)
    film = Film(read.source(bool(given.get("clear"))), encoding, out, recipe, at=frame)
    carrier = carrier_for(scheduler, reach, or_here)
    with Progress(console=Console(stderr=True, highlight=False), transient=True) as bar:
        first, *_ = write(film, workers, bar.track, carrier)
    click.echo(f"{first}: {reel.length} frames, {reel.size.shown}")


@main.command()
@told
def formats() -> None:
    """List the formats that films and pictures are written in."""
    from rich.console import Console
    from rich.table import Table

    from .media.formats import FORMATS

    table = Table(box=None, pad_edge=False)
    for heading in ("Format", "Name", "File", "Bits", "Alpha", "Quality", "For"):
        table.add_column(heading)
    for one in FORMATS:
        words = one.quality.words if one.quality else {}
        table.add_row(
            one.slug, one.label, one.ending, str(one.bits), "yes" if one.alpha else "",
            ", ".join(f"{word} {number}" for word, number in words.items()), one.sentence,
        )  # fmt: skip
    Console().print(table)


if __name__ == "__main__":
    main()
