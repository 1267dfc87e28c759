"""A film's server and a worker's side of it: files come whole or not at all, and only to those who
may have them."""

from __future__ import annotations

import hashlib
import http.client
import shutil
import socket
import threading
from collections import namedtuple
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pale_static.core.faults import Fault, NoRoom
from pale_static.jobs.cluster import fetching
from pale_static.jobs.cluster.fetching import (
    Expired,
    FetchedFiles,
    NotWanted,
    Refused,
    Unreachable,
    Way,
    own_folder,
)
from pale_static.jobs.cluster.grants import Grant, Signer
from pale_static.jobs.cluster.handing_out import Accepted, HandingOut

TASK = "0123456789abcdef"
DATA = bytes(range(256)) * 40
KEY = hashlib.blake2b(DATA, digest_size=16).hexdigest()


class Taking(Accepted):
    """Keeps what arrives."""

    def __init__(self) -> None:
        self.taken: list[tuple[int, int, bytes]] = []
        self.said: list[Mapping[str, Any]] = []

    def take(self, task: str, first: int, count: int, file: Path) -> None:
        if count > 100:
            raise Fault("That many were not asked for.")
        self.taken.append((first, count, file.read_bytes()))

    def told(self, task: str, told: Mapping[str, Any]) -> None:
        self.said.append(told)


@pytest.fixture
def out(tmp_path: Path) -> Iterator[HandingOut]:
    (tmp_path / "clip").write_bytes(DATA)
    with HandingOut({KEY: tmp_path / "clip"}, tmp_path, Taking()) as server:
        yield server


def files(tmp_path: Path, most: int = 1 << 30) -> FetchedFiles:
    (tmp_path / "here").mkdir(exist_ok=True)
    return FetchedFiles(tmp_path / "here", most)


def nothing(_: int) -> None:
    pass


def changed(grant: Grant, **update: Any) -> Way:
    return Way(grant.model_copy(update=update))


def test_a_file_is_fetched_once_and_found_from_then_on(out: HandingOut, tmp_path: Path) -> None:
    here, way = files(tmp_path), Way(out.grant(TASK))
    assert here.get(KEY, len(DATA), way, nothing).read_bytes() == DATA
    assert here.get(KEY, len(DATA), way, nothing).read_bytes() == DATA
    assert out.sent == {KEY: 1}
    assert here.bytes == len(DATA)


def test_only_the_film_s_own_files_are_given(out: HandingOut, tmp_path: Path) -> None:
    way = Way(out.grant(TASK))
    (tmp_path / "secret").write_text("secret")
    with pytest.raises(Refused, match="no such file"):
        files(tmp_path).get("0" * 32, 6, way, nothing)
    for path in ("files/../secret", "files/secret", "files/%2e%2e%2fsecret", ""):
        with pytest.raises(Refused, match="nothing here"):
            way._ask("GET", path)


def test_a_signature_that_was_changed_or_is_for_another_task_opens_nothing(
    out: HandingOut, tmp_path: Path
) -> None:
    grant = out.grant(TASK)
    other = "f" * 16
    out.grant(other)
    for way in (
        changed(grant, signature="0" * 64),
        changed(grant, until=grant.until + 1),
        changed(grant, task=other),
    ):
        with pytest.raises(Refused, match="not valid"):
            files(tmp_path).get(KEY, len(DATA), way, nothing)
        with pytest.raises(Refused, match="not valid"):
            way.tell()


def test_a_signature_expires_by_the_clock_of_the_machine_that_signed_it(
    out: HandingOut, tmp_path: Path
) -> None:
    clock = [1_000_000.0]
    out.signer = Signer(now=lambda: clock[0], life=900)
    way = Way(out.grant(TASK))
    clock[0] += 899
    way.tell()  # which renews it
    clock[0] += 899
    files(tmp_path).get(KEY, len(DATA), way, nothing)
    clock[0] += 3600  # also when this clock is put forward by an hour
    with pytest.raises(Expired, match="expired"):
        way.tell()
    # The worker's own clock is never asked: a permission of long ago by its clock is good.
    Way(out.grant(TASK)).tell()


def test_a_stretch_that_is_not_wanted_any_more_is_told_so(out: HandingOut, tmp_path: Path) -> None:
    way = Way(out.grant(TASK))
    out.tasks.clear()
    with pytest.raises(NotWanted):
        way.tell()
    with pytest.raises(NotWanted):
        files(tmp_path).get(KEY, len(DATA), way, nothing)


def test_a_stretch_arrives_whole_or_is_refused(out: HandingOut, tmp_path: Path) -> None:
    taking = out.accepted
    assert isinstance(taking, Taking)
    way, file = Way(out.grant(TASK)), tmp_path / "stretch"
    file.write_bytes(DATA)
    way.send(100, 50, file)
    assert taking.taken == [(100, 50, DATA)]
    with pytest.raises(Refused, match="not asked for"):
        way.send(0, 101, file)
    with pytest.raises(Refused, match="did not arrive whole"):
        way._ask("PUT", f"stretches/0-1/{'0' * 32}", DATA)
    assert len(taking.taken) == 1
    assert not list(tmp_path.glob(".*.part"))


@settings(max_examples=25)
@given(cut=st.integers(0, len(DATA) - 1))
def test_a_stretch_that_is_cut_off_at_any_byte_is_not_taken(
    tmp_path_factory: pytest.TempPathFactory, cut: int
) -> None:
    folder, taking = tmp_path_factory.mktemp("cut"), Taking()
    with HandingOut({}, folder, taking) as out:
        grant = out.grant(TASK)
        with socket.create_connection((out.host, out.port)) as raw:
            head = (
                f"PUT /{TASK}/stretches/0-1/{KEY}?{grant.query} HTTP/1.1\r\nHost: x\r\n"
                f"Content-Length: {len(DATA)}\r\n\r\n"
            )
            raw.sendall(head.encode() + DATA[:cut])
            raw.shutdown(socket.SHUT_WR)
            answer = raw.recv(1000)
    assert b" 200 " not in answer
    assert not taking.taken
    assert not list(folder.iterdir())


class Flaky:
    """A server whose first answers are cut off at given bytes, and whose next one is whole."""

    def __init__(self, data: bytes, cuts: list[int]) -> None:
        self.data, self.cuts = data, cuts
        self._listening = socket.create_server(("127.0.0.1", 0))
        threading.Thread(target=self._serve, daemon=True).start()

    @property
    def grant(self) -> Grant:
        port = self._listening.getsockname()[1]
        address = f"http://127.0.0.1:{port}"
        return Grant(address=address, task=TASK, until=1, signature="0" * 64)

    def _serve(self) -> None:
        while True:
            one, _ = self._listening.accept()
            with one:
                asked = one.recv(5000).decode()
                first = int(asked.partition("Range: bytes=")[2].partition("-")[0] or 0)
                rest = self.data[first:]
                status = "206 Partial Content" if first else "200 OK"
                one.sendall(f"HTTP/1.1 {status}\r\nContent-Length: {len(rest)}\r\n\r\n".encode())
                one.sendall(rest[: self.cuts.pop(0)] if self.cuts else rest)


@settings(max_examples=25)
@given(cuts=st.lists(st.integers(0, len(DATA)), max_size=3))
def test_a_fetch_that_is_cut_off_at_any_byte_goes_on_there(
    tmp_path_factory: pytest.TempPathFactory, cuts: list[int]
) -> None:
    here = files(tmp_path_factory.mktemp("cuts"))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(fetching.time, "sleep", nothing)
        found = here.get(KEY, len(DATA), Way(Flaky(DATA, list(cuts)).grant), nothing)
    assert found.read_bytes() == DATA
    assert here.bytes == len(DATA)  # no byte came twice


def test_a_file_with_other_content_than_its_name_says_is_refused(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(fetching.time, "sleep", nothing)
    here = files(tmp_path)
    with pytest.raises(Refused, match="other content"):
        here.get(KEY, len(DATA), Way(Flaky(DATA[::-1], []).grant), nothing)
    with pytest.raises(Refused, match="longer"):
        here.get(KEY, 10, Way(Flaky(DATA, []).grant), nothing)
    assert not [path for path in here.folder.iterdir() if not path.name.startswith(".")]


def test_a_server_that_is_gone_is_named(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(fetching.time, "sleep", nothing)
    with socket.create_server(("127.0.0.1", 0)) as one:
        port = one.getsockname()[1]
    grant = Grant(address=f"http://127.0.0.1:{port}", task=TASK, until=1, signature="0" * 64)
    with pytest.raises(Unreachable, match=f"127.0.0.1:{port}.*refused"):
        files(tmp_path).get(KEY, len(DATA), Way(grant), nothing)


def test_a_full_disk_is_told_before_anything_is_fetched(
    out: HandingOut, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    usage = namedtuple("usage", "total used free")
    here, way = files(tmp_path), Way(out.grant(TASK))
    with monkeypatch.context() as patch:
        patch.setattr(shutil, "disk_usage", lambda _: usage(10, 9, 1))
        with pytest.raises(NoRoom, match="no room for a file"):
            here.get(KEY, len(DATA), way, nothing)
    with pytest.raises(NoRoom, match="the folder may hold"):
        files(tmp_path, most=1000).get(KEY, len(DATA), way, nothing)
    assert out.sent == {}


def test_the_folder_keeps_its_bound_and_the_files_of_the_present_film(tmp_path: Path) -> None:
    contents = [bytes([n]) * 1000 for n in range(4)]
    keys = [hashlib.blake2b(one, digest_size=16).hexdigest() for one in contents]
    for key, content in zip(keys, contents, strict=True):
        (tmp_path / key).write_bytes(content)
    served = {key: tmp_path / key for key in keys}
    here = files(tmp_path, most=2500)
    with HandingOut(served, tmp_path, Taking()) as out:
        way = Way(out.grant(TASK))
        here.begin("first film")
        here.get(keys[0], 1000, way, nothing)
        here.get(keys[1], 1000, way, nothing)
        with pytest.raises(NoRoom):
            here.get(keys[2], 1000, way, nothing)
        here.begin("second film")
        here.get(keys[2], 1000, way, nothing)
        here.get(keys[3], 1000, way, nothing)
    assert {path.name for path in here.folder.iterdir()} == {keys[2], keys[3]}


def test_each_worker_of_a_machine_has_a_folder_of_its_own(tmp_path: Path) -> None:
    first, lock = own_folder(tmp_path)
    second, other = own_folder(tmp_path)
    assert first != second
    lock.close()
    again, _ = own_folder(tmp_path)
    assert again == first  # with the files that it fetched before
    other.close()


def test_no_body_or_address_makes_the_server_fail(out: HandingOut) -> None:
    grant = out.grant(TASK)
    tries = [
        ("POST", f"/{TASK}/told?{grant.query}", b"[" * 4000),
        ("POST", f"/{TASK}/told?{grant.query}", b"x" * 5000),
        ("POST", f"/{TASK}/told?{grant.query}", b"[1]"),
        ("PUT", f"/{TASK}/stretches/999999999999-1/{KEY}?{grant.query}", b""),
        ("GET", f"/{TASK}/files/{KEY}?until=9{'9' * 40}&signature=x", None),
        ("GET", f"/{TASK}/files/{KEY}?until=-1&signature=%00", None),
        ("GET", f"/{TASK}/files/{KEY}", None),
        ("DELETE", f"/{TASK}/files/{KEY}?{grant.query}", None),
    ]
    for method, path, body in tries:
        connection = http.client.HTTPConnection(out.host, out.port, timeout=10)
        connection.request(method, path, body)
        assert connection.getresponse().status in (400, 401, 403, 404, 413, 501), path
        connection.close()
    Way(out.grant(TASK)).tell(doing="making")  # it still answers
