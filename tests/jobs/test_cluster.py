"""Films made by a real scheduler and real workers, whatever happens to them."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
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
LENGTH, SIZE = 350, Size(320, 180)
"""Three stretches and a half."""
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


def test_films_are_the_same_whatever_happens_to_the_machines_that_make_them(
    world: tuple[Library, int, int], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(membership, "HUNG", 3.0)
    done: set[str] = set()
    said: list[str] = []
    with RealCluster(tmp_path, 3) as real:

        def kill_a_worker(seen: Seen) -> None:
            if seen.frames > 20 and not done:
                real.workers[0].kill()
                done.add("killed")

        def stop_a_worker(seen: Seen) -> None:
            working = {one.name for one in seen.members if one.state == "working"}
            if seen.frames > 20 and "w1" in working and "stopped" not in done:
                real.workers[1].send_signal(signal.SIGSTOP)
                done.add("stopped")
            if any(one.state == "silent" for one in seen.members):
                done.add("silent")

        def restart_the_scheduler(seen: Seen) -> None:
            said.append(seen.sentence)
            if seen.frames > 20 and "gone" not in done:
                assert real.scheduler is not None
                real.scheduler.kill()
                done.add("gone")
            elif "gone" in done and "back" not in done and "went away" in " ".join(said):
                real.start_scheduler()
                # Dask's workers end with their scheduler, and are started again in a loop.
                for number in (3, 4):
                    real.start_worker(f"w{number}")
                done.add("back")

        cluster = Cluster(real.address)
        happens = {"mp4": kill_a_worker, "ffv1": stop_a_worker, "png-8": restart_the_scheduler}
        for slug, watch in happens.items():
            here = bytes_of(write(film_of(world, slug, tmp_path / f"{slug} here"), workers=1))
            film = film_of(world, slug, tmp_path / f"{slug} there")
            assert bytes_of(write(film, carrier=ClusterCarrier(cluster, watch))) == here, slug
            assert not list((tmp_path / f"{slug} there").glob(".*"))
        cluster.close()
    assert done == {"killed", "stopped", "silent", "gone", "back"}


def certificates(folder: Path) -> dict[str, str]:
    """An authority and one certificate, made as the guide says; the settings that name them."""
    ca, key, cert = folder / "ca.pem", folder / "machine.key", folder / "machine.pem"
    made = ["openssl", "req", "-newkey", "rsa:2048", "-nodes", "-days", "30"]
    authority = ["-x509", "-keyout", folder / "ca.key", "-out", ca, "-subj", "/CN=renders"]
    machine = ["-x509", "-CA", ca, "-CAkey", folder / "ca.key", "-keyout", key, "-out", cert,
               "-subj", "/CN=machine"]  # fmt: skip
    for words in (authority, machine):
        subprocess.run([*made, *map(str, words)], check=True, capture_output=True)
    settings = {"CA_FILE": ca}
    for role in ("SCHEDULER", "WORKER", "CLIENT"):
        settings |= {f"{role}__CERT": cert, f"{role}__KEY": key}
    return {f"DASK_DISTRIBUTED__COMM__TLS__{name}": str(path) for name, path in settings.items()}


def test_the_command_line_renders_over_encrypted_connections_and_fetches_each_file_once(
    tmp_path: Path,
) -> None:
    clip = write_clip(tmp_path / "clip.mp4", frames=250, size=SIZE)
    effect = tmp_path / "soft.json"
    effect.write_text(json.dumps(LOOK))
    given = ["render", effect, "--clip", clip, "--size", "320x180", "--length", "240"]
    tls = certificates(tmp_path)

    def render(*more: object, env: dict[str, str], fails: bool = False) -> str:
        words = [sys.executable, "-m", "pale_static", *map(str, [*given, *more])]
        done = subprocess.run(words, env=os.environ | env, capture_output=True, text=True)
        assert (done.returncode != 0) == fails, done.stderr
        return done.stderr

    render("-o", tmp_path / "here.mp4", env={})
    with RealCluster(tmp_path, 2, scheme="tls", environment=tls) as real:
        there = ["-o", tmp_path / "there.mp4", "--scheduler", real.address]
        render(*there, env=tls)
        for name in ("w0", "w1"):
            fetched = [one for one in (tmp_path / name).rglob("*") if one.is_file()]
            found = {one.read_bytes() for one in fetched if one.suffix != ".lock"}
            assert found <= {clip.read_bytes()}
        # Without certificates nothing is sent, and the sentence says what to do.
        told = render(*there, env={}, fails=True)
        assert "No certificate is set up" in told
    assert (tmp_path / "there.mp4").read_bytes() == (tmp_path / "here.mp4").read_bytes()
