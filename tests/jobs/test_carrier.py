"""What happens with a film when its workers refuse, fail, hang or send something wrong.

The workers here are threads of this process; real ones are in ``test_cluster.py``.
"""

from __future__ import annotations

import os
import pickle
import socket
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from pale_static.core import FrameRate, Materials, Size, read_effect
from pale_static.core.faults import Fault
from pale_static.core.frames.effect import EffectSource
from pale_static.jobs.cluster import carrier as carriers
from pale_static.jobs.cluster import only_tasks
from pale_static.jobs.cluster import task as tasks
from pale_static.jobs.cluster.carrier import ClusterCarrier, Seen
from pale_static.jobs.cluster.fetching import FetchedFiles
from pale_static.jobs.cluster.flights import tasks_of
from pale_static.jobs.cluster.membership import Cluster, Member, NotThere
from pale_static.jobs.cluster.sealed import unpacked_film
from pale_static.jobs.cluster.task import Work
from pale_static.jobs.effect_files import EffectFile
from pale_static.jobs.films import Film, write
from pale_static.media.formats import Encoding, format_of

GIVEN: dict[str, Any] = {
    "size": "64x36", "rate": "25", "length": "250", "first": None, "second": None, "clip": None,
    "slots": (), "mattes": (), "settings": (), "text": None,
}  # fmt: skip
PLAIN = {
    "name": "Flicker", "kind": "look", "slots": [{"id": "clip", "name": "Clip"}],
    "lanes": [{"id": "out", "name": "Out", "steps": [
        {"id": "n", "kind": "noise", "values": {"cells": 4}}]}],
}  # fmt: skip
Answer = Callable[[str], dict[str, Any]]


class StubFuture:
    """A future as Dask's: with a status."""

    def __init__(self, future: Future[Any]) -> None:
        self._future = future

    def done(self) -> bool:
        return self._future.done()

    @property
    def status(self) -> str:
        if not self._future.done():
            return "pending"
        return "error" if self._future.exception() else "finished"

    def result(self) -> Any:
        return self._future.result()

    def exception(self, timeout: float = 0) -> Any:
        return self._future.exception()

    def cancel(self) -> None:
        self._future.cancel()


class Stub(Cluster):
    """Workers that are threads; ``does`` says what each of them makes of a task."""

    def __init__(self, does: dict[str, Answer]) -> None:
        super().__init__("tcp://127.0.0.1:1")
        self.does, self.asked = does, list[str]()
        self._pools = {name: ThreadPoolExecutor(1) for name in does}
        self.members = {name: Member(name, name, "ready") for name in does}

    @property
    def client(self) -> Any:
        return self

    @property
    def lost(self) -> bool:
        return False

    def look(self) -> list[Member]:
        return list(self.members.values())

    def submit(self, _: Any, work: str, *, workers: list[str], **__: Any) -> StubFuture:
        (name,) = workers
        self.asked.append(name)
        return StubFuture(self._pools[name].submit(self.does[name], work))


@pytest.fixture(autouse=True)
def a_worker_here(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """This process can make stretches as a worker does."""
    folder = tmp_path / "fetched"
    folder.mkdir()
    monkeypatch.setattr(tasks, "_here", tasks._Here(FetchedFiles(folder, 1 << 30), None))


def good(work: str) -> dict[str, Any]:
    return tasks.make_stretches(work)


def saying(outcome: str, sentence: str = "It broke.") -> Answer:
    return lambda _: tasks._said(outcome, sentence)  # type: ignore[arg-type]


def film_of(tmp_path: Path, slug: str = "ffv1", document: Any = PLAIN, **more: Any) -> Film:
    import json

    file = tmp_path / "effect.json"
    file.write_text(json.dumps(document))
    recipe = EffectFile(GIVEN | {"file": file} | more)
    form = format_of(slug)
    out = tmp_path / (f"f%03d{form.ending}" if form.numbered else f"film{form.ending}")
    return Film(recipe.open(), Encoding(form), out, recipe)


def carried(tmp_path: Path, cluster: Stub, film: Film | None = None, **more: Any) -> list[Path]:
    return write(film or film_of(tmp_path), carrier=ClusterCarrier(cluster, **more))


@pytest.mark.parametrize("slug", ["ffv1", "tiff"])
def test_a_film_that_was_carried_equals_one_that_was_not(tmp_path: Path, slug: str) -> None:
    here = [path.read_bytes() for path in write(film_of(tmp_path, slug), workers=1)]
    seen: list[Seen] = []
    there = carried(tmp_path, Stub({"a": good}), film_of(tmp_path, slug), watch=seen.append)
    assert [path.read_bytes() for path in there] == here
    frames = [one.frames for one in seen]
    assert frames == sorted(frames)
    assert frames[-1] <= 250


@pytest.mark.parametrize(
    "bad",
    [saying("failed"), saying("no room"), saying("other program")],
    ids=["fails", "no room", "another program"],
)
def test_a_worker_that_cannot_is_left_and_the_others_make_the_film(
    tmp_path: Path, bad: Answer
) -> None:
    cluster = Stub({"a": bad, "b": good})
    (path,) = carried(tmp_path, cluster)
    assert path.exists()
    assert cluster.asked.count("a") <= 3  # each stretch at most once


def test_a_worker_that_runs_another_program_is_refused_with_a_sentence(tmp_path: Path) -> None:
    cluster = Stub({"a": saying("other program", "It runs version 0.0.9."), "b": good})
    carried(tmp_path, cluster)
    assert (cluster.members["a"].state, cluster.asked.count("a")) == ("refused", 1)
    assert cluster.members["a"].sentence == "It runs version 0.0.9."


def test_the_task_itself_refuses_a_film_of_another_program(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(tasks, "program", lambda: "another")
    cluster = Stub({"a": good})
    with pytest.raises(_Enough):
        carried(tmp_path, cluster, watch=_until("another program"))
    assert cluster.members["a"].state == "refused"


class _Enough(Exception):
    pass


def _until(words: str) -> Callable[[Seen], None]:
    def watch(seen: Seen) -> None:
        if words in seen.sentence:
            assert seen.sentence.endswith("The render waits.")
            raise _Enough

    return watch


def test_a_stretch_that_no_worker_can_make_is_told_after_three_tries(tmp_path: Path) -> None:
    cluster = Stub({name: saying("failed", "The lamp is out.") for name in "abcd"})
    with pytest.raises(Fault, match=r"Frames \d+ to \d+ could not be made by 3 workers") as told:
        carried(tmp_path, cluster)
    assert "The lamp is out." in told.value.sentence
    assert not list(tmp_path.glob("film*")), "no partial film under the final name"
    assert not list(tmp_path.glob(".film*"))


def test_this_machine_makes_what_the_cluster_cannot_if_that_is_asked(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = write(film_of(tmp_path), workers=1)[0].read_bytes()
    bad = Stub({name: saying("failed") for name in "abc"})
    assert carried(tmp_path, bad, or_here=True)[0].read_bytes() == here
    monkeypatch.setattr(carriers, "HERE_AFTER", 0.2)

    class Gone(Stub):
        def look(self) -> list[Member]:
            raise NotThere("There is no scheduler.")

    assert carried(tmp_path, Gone({}), or_here=True)[0].read_bytes() == here


def test_a_stretch_of_a_wrong_size_is_given_to_another_worker(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = write(film_of(tmp_path), workers=1)[0].read_bytes()
    stretch_of = tasks.stretch_of

    def short(film: Any, make: Any, first: int, count: int, *rest: Any) -> Path:
        return stretch_of(film, make, first, count - 1, *rest)

    def bad(work: str) -> dict[str, Any]:
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(tasks, "stretch_of", short)
            return good(work)

    cluster = Stub({"a": bad, "b": good})
    lock = threading.Lock()
    cluster.does = {name: _alone(lock, do) for name, do in cluster.does.items()}
    assert carried(tmp_path, cluster)[0].read_bytes() == here
    assert cluster.asked.count("a") >= 1


def _alone(lock: threading.Lock, do: Answer) -> Answer:
    def locked(work: str) -> dict[str, Any]:
        with lock:
            return do(work)

    return locked


def test_an_expired_permission_is_renewed_and_counts_as_no_failure(tmp_path: Path) -> None:
    turns = iter(range(100))

    def late(work: str) -> dict[str, Any]:
        return tasks._said("again", "expired") if next(turns) < 8 else good(work)

    (path,) = carried(tmp_path, Stub({"a": late}))
    assert path.exists()


def test_a_silent_worker_s_stretches_go_to_another(tmp_path: Path) -> None:
    free = threading.Event()

    def hangs(work: str) -> dict[str, Any]:
        free.wait(20)
        return good(work)

    cluster = Stub({"a": hangs, "b": good})

    def watch(seen: Seen) -> None:
        if seen.frames > 60:
            cluster.members["a"].state = "silent"

    (path,) = carried(tmp_path, cluster, watch=watch)
    assert path.exists()
    free.set()


def test_a_slow_worker_s_stretch_is_made_by_another_one_as_well(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(carriers, "PATIENT", 0.3)
    free = threading.Event()

    def slow(work: str) -> dict[str, Any]:
        free.wait(20)
        return good(work)

    began = time.monotonic()
    (path,) = carried(tmp_path, Stub({"a": slow, "b": good}))
    assert path.exists()
    assert time.monotonic() - began < 15  # nobody waited for the slow one
    free.set()


def test_a_slow_worker_that_ends_its_stretch_after_all_leaves_no_empty_task(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(carriers, "PATIENT", 0.1)
    given: list[str] = []

    def slow(work: str) -> dict[str, Any]:
        given.append(work)
        if len(given) == 2:  # after a first one, which tells how long a frame takes
            time.sleep(1.5)
        return good(work)

    (path,) = carried(tmp_path, Stub({"a": slow}))
    assert path.exists()
    assert len(given) == len(set(given)) == 3


def test_a_render_that_is_cancelled_leaves_nothing_under_its_name(tmp_path: Path) -> None:
    def watch(seen: Seen) -> None:
        if seen.frames > 50:
            raise _Enough

    with pytest.raises(_Enough):
        carried(tmp_path, Stub({"a": good}), watch=watch)
    assert not list(tmp_path.glob("film*"))


@pytest.mark.parametrize(
    "body", ["", "{}", "[]", '{"film": "x", "stretches": [[0, 1]]}', "\0" * 50, "{" * 5000]
)
def test_a_worker_answers_a_task_that_it_cannot_read(body: str) -> None:
    told = tasks.make_stretches(body)
    assert (told["outcome"], told["sentence"]) == ("failed", "The task cannot be read.")


def test_a_worker_makes_no_frames_that_the_film_does_not_have(tmp_path: Path) -> None:
    def beyond(work: str) -> dict[str, Any]:
        asked = Work.model_validate_json(work)
        return good(asked.model_copy(update={"stretches": ((240, 100),)}).model_dump_json())

    with pytest.raises(Fault, match="has no frames 240 to 339"):
        carried(tmp_path, Stub({"a": beyond, "b": beyond, "c": beyond}))


def test_a_document_of_a_film_that_was_changed_is_refused() -> None:
    import zlib

    for data in (b"", b"x", zlib.compress(b"{}"), zlib.compress(b"[" * 100000),
                 zlib.compress(b" " * (65 << 20))):  # fmt: skip
        with pytest.raises(Fault, match="document of a film"):
            unpacked_film(data)


def test_a_film_with_feedback_gets_tasks_that_begin_where_little_must_be_computed_first() -> None:
    def source(kind: str, **values: Any) -> EffectSource:
        steps = [{"id": "n", "kind": "noise"}, {"id": "t", "kind": kind, "values": values}]
        lanes = [{"id": "out", "name": "Out", "steps": steps}]
        effect = read_effect({"name": "T", "kind": "texture", "lanes": lanes})
        return EffectSource(
            effect=effect, full=Size(32, 18), frames=1000, given_rate=FrameRate.of(25),
            materials=Materials(),
        )  # fmt: skip

    wanted = [(first, 100) for first in range(0, 1000, 100)]
    assert len(tasks_of(source("blur"), wanted)) == 10
    # Every frame of a Trail needs all frames before it: one task computes each of them once.
    assert len(tasks_of(source("trail"), wanted)) == 1
    # A Trail that restarts at each stretch needs no frame of the stretch before it.
    often = ", ".join(str(second) for second in range(0, 40, 4))
    assert len(tasks_of(source("trail", restart=often), wanted)) == 10
    # Where only some stretches begin with a restart, tasks are as long as from one to the next.
    seldom = tasks_of(source("trail", restart="12, 28"), wanted)
    assert [one.stretches[0][0] for one in seldom] == [0, 300, 700]


def test_a_machine_that_gets_another_address_serves_its_film_there(tmp_path: Path) -> None:
    here = write(film_of(tmp_path), workers=1)[0].read_bytes()

    class Moving(Stub):
        asked_places = 0

        def own_place(self) -> tuple[str, int]:
            self.asked_places += 1
            return ("127.0.0.1" if self.asked_places == 1 else "127.0.0.2"), 0

    def far(work: str) -> dict[str, Any]:
        if "//127.0.0.1:" in Work.model_validate_json(work).grant.address:
            return tasks._said("unreachable", "It cannot reach this machine.")
        return good(work)

    cluster = Moving({"a": far})
    assert carried(tmp_path, cluster)[0].read_bytes() == here


def test_a_worker_that_cannot_reach_this_machine_is_left_for_a_while(tmp_path: Path) -> None:
    cluster = Stub({"a": saying("unreachable", "It cannot reach this machine at x."), "b": good})
    carried(tmp_path, cluster)
    assert cluster.asked.count("a") == 1
    with pytest.raises(_Enough):
        carried(tmp_path, Stub({"a": saying("unreachable")}), watch=_until("It broke."))


def test_a_scheduler_of_another_version_is_refused_with_both_versions(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    distributed = pytest.importorskip("distributed")

    class Old:
        status = "running"

        def __init__(self, *_: Any, **__: Any) -> None:
            pass

        def get_versions(self) -> Any:
            return {"scheduler": {"packages": {"distributed": "2020.1.0"}}}

        def close(self, timeout: float) -> None:
            pass

    monkeypatch.setattr(distributed, "Client", Old)
    with socket.create_server(("127.0.0.1", 0)) as one:
        cluster = Cluster(f"tcp://127.0.0.1:{one.getsockname()[1]}")
        with pytest.raises(NotThere, match=r"runs Dask 2020\.1\.0, and this machine"):
            cluster.look()


@pytest.mark.parametrize(
    ("update", "words"),
    [
        ({}, ""),
        ({"program": "0ther"}, "another program"),
        ({"rounding": "kernels znver9"}, "would give other bits"),
        ({"prepared": False}, "--preload"),
    ],
)
def test_a_worker_is_accepted_or_refused_by_its_introduction(
    monkeypatch: pytest.MonkeyPatch, update: dict[str, Any], words: str
) -> None:
    told: Future[Any] = Future()
    told.set_result(tasks.introduce() | update)
    member = Member("a", "a", asked=StubFuture(told))
    Cluster._introduced(member)
    assert member.state == ("refused" if words else "ready")
    assert words in member.sentence


@pytest.mark.parametrize(
    "address",
    ["", "http://x:1", "tcp://", "tcp://127.0.0.1", "tcp://127.0.0.1:x", "tcp://127.0.0.1:1/x",
     "tcp://8.8.8.8:8786", "tcp://127.0.0.1:99999"],
)  # fmt: skip
def test_an_address_that_is_none_or_would_send_in_the_clear_is_refused(address: str) -> None:
    with pytest.raises(Fault, match=r"is not the address|is another machine"):
        Cluster(address)


def test_a_worker_unpickles_nothing_but_its_own_task() -> None:
    import subprocess

    from dask._task_spec import Task

    ours = Task("x", tasks.make_stretches, "work")
    assert only_tasks.loads(pickle.dumps(ours)).func is tasks.make_stretches
    for other in (os.system, subprocess.run, eval, Path("/etc/passwd"), Task("x", os.getcwd)):
        with pytest.raises(pickle.UnpicklingError, match="nothing but its own task"):
            only_tasks.loads(pickle.dumps(other))
