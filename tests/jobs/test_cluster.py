"""Films made by a real scheduler and real workers, whatever happens to them."""

from __future__ import annotations

import signal
from pathlib import Path

import pytest

from pale_static.core import Size, read_effect
from pale_static.core.reel import Reel
from pale_static.jobs.cluster import membership
from pale_static.jobs.cluster.carrier import ClusterCarrier, Seen
from pale_static.jobs.cluster.membership import Cluster
from pale_static.jobs.films import Film, write
from pale_static.jobs.publishing import publish_draft
from pale_static.jobs.worker import LibraryEdit
from pale_static.media.formats import Encoding, format_of
from pale_static.store import Library, drafts
from pale_static.store.renders import Wanted

from ..cluster import RealCluster
from ..conftest import write_clip

pytest.importorskip("distributed")
LENGTH, SIZE = 450, Size(320, 180)
"""Four stretches and a half."""
LOOK = {
    "name": "Soft", "kind": "look", "slots": [{"id": "clip", "name": "Clip"}],
    "lanes": [{"id": "out", "name": "Out", "steps": [
        {"id": "c", "kind": "slot"}, {"id": "b", "kind": "blur", "values": {"size": 3}},]}],
}  # fmt: skip


@pytest.fixture(scope="module")
def world(tmp_path_factory: pytest.TempPathFactory) -> tuple[Library, int, int]:
    """A library, and an edit of one long shot under a published look."""
    folder = tmp_path_factory.mktemp("world")
    library = Library(folder / "data")
    with write_clip(folder / "long.mp4", frames=LENGTH + 20, size=SIZE).open("rb") as file:
        clip = library.bring_in(file, "long.mp4")
    effect = read_effect(LOOK)
    draft = drafts.start(library.db, "effect", effect.to_json(), "Begun")
    shelved = publish_draft(library, None, draft, effect)
    look = {"id": "l", "macro": shelved.slug, "version": 1}
    reel = {"name": "Night", "width": SIZE.width, "height": SIZE.height,
            "shots": [{"id": "a", "material": clip.id, "name": "Long", "length": f"{LENGTH}/25",
                       "looks": [look]}]}  # fmt: skip
    edit = drafts.start(library.db, "reel", Reel.model_validate(reel).to_json(), "Begun")
    return library, edit.id, edit.head.id


def film_of(world: tuple[Library, int, int], slug: str, folder: Path) -> Film:
    library, edit, revision = world
    form = format_of(slug)
    folder.mkdir(exist_ok=True)
    out = folder / (f"f%04d{form.ending}" if form.numbered else f"film{form.ending}")
    recipe = LibraryEdit(library.folder, edit, revision, Wanted(slug, 0, LENGTH))
    return Film(recipe.source(library), Encoding(form), out, recipe)


def bytes_of(paths: list[Path]) -> list[bytes]:
    return [path.read_bytes() for path in paths]


@pytest.mark.parametrize("slug", ["mp4", "ffv1", "png-8"])
def test_a_film_is_the_same_whatever_happens_to_the_machines_that_make_it(
    world: tuple[Library, int, int], slug: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(membership, "HUNG", 3.0)
    here = bytes_of(write(film_of(world, slug, tmp_path / "here"), workers=1))
    said: list[str] = []
    with RealCluster(tmp_path, 3) as real:

        def watch(seen: Seen) -> None:
            """A worker is killed, one is stopped, and the scheduler is restarted."""
            said.extend([seen.sentence] if seen.sentence else [])
            states = [one.state for one in seen.members]
            if not events and seen.frames > 20:
                real.workers[0].kill()
                events.append("killed")
            elif events == ["killed"] and seen.frames > 40:
                real.workers[1].send_signal(signal.SIGSTOP)
                events.append("stopped")
            elif events == ["killed", "stopped"] and "silent" in states:
                assert real.scheduler is not None
                real.scheduler.kill()
                events.append("gone")
            elif events[-1:] == ["gone"] and "went away" in " ".join(said):
                real.start_scheduler()
                # Dask's workers end with their scheduler, and are started again in a loop.
                for number in (3, 4):
                    real.start_worker(f"w{number}")
                events.append("back")

        events: list[str] = []
        cluster = Cluster(real.address)
        made = write(
            film_of(world, slug, tmp_path / "there"), carrier=ClusterCarrier(cluster, watch)
        )
        cluster.close()
    assert events == ["killed", "stopped", "gone", "back"]
    assert bytes_of(made) == here
    assert not list((tmp_path / "there").glob(".*"))
