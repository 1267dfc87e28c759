"""The real server is killed, crowded, starved and locked out: no accepted change is lost, and it
continues."""

from __future__ import annotations

import json
import random
import resource
import shutil
import socket
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from http.client import HTTPException
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest

from pale_static.web import listening
from pale_static.web.door import LOOPBACK, Door, door_for, own_names

from ..server import Server, shrink


@pytest.fixture
def server(demo_folder: Path, tmp_path: Path) -> Iterator[Server]:
    shutil.copytree(demo_folder, tmp_path / "data")
    running = Server(tmp_path / "data")
    yield running
    running.stop()


def kill_round(server: Server, rng: random.Random, known: dict[str, Any]) -> None:
    """Make changes without a pause, kill the server, and check what is saved."""
    stop = threading.Event()
    said = known["said"]

    def change() -> None:
        while not stop.is_set():
            try:
                view = server.ask("GET", "/effects/1")
                done = server.ask("POST", "/effects/1/changes", {"base": view["revision"], "change": {
                    "do": "set-head", "sentence": f"Change {len(said)}"}})  # fmt: skip
                said.append((done["revision"], done["effect"]["sentence"]))
            except (OSError, HTTPException, ValueError):
                return

    thread = threading.Thread(target=change)
    thread.start()
    time.sleep(rng.uniform(0.02, 0.25))
    server.kill()
    stop.set()
    thread.join()
    server.start()
    view = server.ask("GET", "/effects/1")
    assert view["revision"] >= said[-1][0]
    if view["revision"] == said[-1][0]:
        assert view["effect"]["sentence"] == said[-1][1]


def test_a_kill_amid_changes_loses_nothing_that_was_accepted(server: Server) -> None:
    first = server.ask("GET", "/effects/1")
    known: dict[str, Any] = {"said": [(first["revision"], first["effect"].get("sentence", ""))]}
    for seed in range(4):
        kill_round(server, random.Random(seed), known)
    assert len(known["said"]) > 8
    with sqlite3.connect(server.folder / "pale-static.sqlite") as found:
        assert found.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        there = {row[0] for row in found.execute("SELECT id FROM revision")}
    assert {number for number, _ in known["said"]} <= there


def test_a_full_disk_fails_what_it_has_to_and_all_goes_on_once_there_is_room(
    server: Server,
) -> None:
    shrink(server, (640, 360))
    view = server.ask("GET", "/effects/1")
    children = subprocess.run(
        ["pgrep", "-P", str(server.process.pid)], capture_output=True, text=True, check=False
    )
    pids = [server.process.pid, *map(int, children.stdout.split())]
    everything = resource.RLIM_INFINITY
    for pid in pids:  # workers that start later inherit it
        resource.prlimit(pid, resource.RLIMIT_FSIZE, (20_000, everything))
    saved, refused = view, None
    for number in range(400):
        change = {"do": "set-head", "sentence": f"{number} {'x' * 150}"}
        try:
            saved = server.ask(
                "POST", "/effects/1/changes", {"base": saved["revision"], "change": change}
            )
        except urllib.error.HTTPError as fault:
            refused = fault
            break
    assert refused is not None
    assert refused.code == 507
    assert "Make room on the disk" in refused.__notes__[0]
    for pid in pids:
        if Path(f"/proc/{pid}").exists():
            resource.prlimit(pid, resource.RLIMIT_FSIZE, (everything, everything))
    after = server.ask("GET", "/effects/1")
    assert after["effect"] == saved["effect"]
    done = server.ask("POST", "/renders", {"reel": 3, "form": "mp4", "frames": 10})
    server.until(done["id"], "done")


def test_a_render_on_a_full_disk_ends_in_words_and_the_next_goes_on(server: Server) -> None:
    shrink(server)
    first = server.ask("POST", "/renders", {"reel": 3, "form": "png", "frames": 3})
    server.until(first["id"], "done")
    found = subprocess.run(
        ["pgrep", "-P", str(server.process.pid), "-f", "jobs.worker"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    worker = int(found.stdout.split()[0])
    everything = resource.RLIM_INFINITY
    resource.prlimit(worker, resource.RLIMIT_FSIZE, (1000, everything))
    made = server.ask("POST", "/renders", {"reel": 3, "form": "png", "frames": 5})
    # The worker can neither begin nor store that, so it waits; the server answers meanwhile.
    time.sleep(1.0)
    assert server.until(made["id"], "queued", "running", "failed")
    resource.prlimit(worker, resource.RLIMIT_FSIZE, (everything, everything))
    server.until(made["id"], "done", "failed")
    last = server.ask("POST", "/renders", {"reel": 3, "form": "mp4", "frames": 5})
    server.until(last["id"], "done")


def test_a_database_that_another_program_holds_is_said_and_passes(server: Server) -> None:
    view = server.ask("GET", "/effects/1")
    body = {"base": view["revision"], "change": {"do": "set-head", "sentence": "Later"}}
    with sqlite3.connect(server.folder / "pale-static.sqlite", isolation_level=None) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(urllib.error.HTTPError) as told:
            server.ask("POST", "/effects/1/changes", body)
        assert told.value.code == 503
        assert "Another program is using" in told.value.__notes__[0]
        other.execute("ROLLBACK")
    assert server.ask("POST", "/effects/1/changes", body)["effect"]["sentence"] == "Later"


def test_listening_pages_idle_connections_and_slow_readers_hold_nobody_up(server: Server) -> None:
    port = int(server.address.rpartition(":")[2])
    idle = [socket.create_connection(("127.0.0.1", port)) for _ in range(500)]
    half = [socket.create_connection(("127.0.0.1", port)) for _ in range(100)]
    for one in half:
        one.sendall(
            b"POST /api/effects HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 9000\r\n\r\n{"
        )
    ended = threading.Event()

    def page() -> None:
        while not ended.is_set():
            server.ask("GET", "/renders")
            ended.wait(1.0)

    pages = [threading.Thread(target=page) for _ in range(100)]
    for thread in pages:
        thread.start()
    began = time.monotonic()
    view = server.ask("GET", "/effects/1")
    address = f"{server.address}/api/effects/1/{view['revision']}/frame.jpg?frame=5"
    with urllib.request.urlopen(address, timeout=10) as answer:
        assert answer.read()[:2] == b"\xff\xd8"
    assert time.monotonic() - began < 10
    ended.set()
    for thread in pages:
        thread.join()
    for one in (*idle, *half):
        one.close()


def test_a_request_that_comes_too_slowly_is_dropped_and_a_long_upload_is_not() -> None:
    class Bare(listening._Channel):
        def __init__(self) -> None:
            self.request: Any = SimpleNamespace()
            self.total_outbufs_len = 0
            self.last_activity = 0.0

    one = Bare()
    one.began, one.brought = 100.0, 1
    assert not one.stalls(109.0)
    assert one.stalls(111.0)
    one.brought = 9 << 30
    assert not one.stalls(100.0 + 3600)
    # The client sends nothing: the time limit applies.
    one.request = None
    assert not one.stalls(10**6)
    # An answer that nobody reads.
    one.total_outbufs_len, one.last_activity = 5, 1000.0
    assert not one.stalls(1000.0 + listening.IDLE - 1)
    assert one.stalls(1000.0 + listening.IDLE + 1)


def test_two_servers_on_one_folder_is_one_too_many(server: Server) -> None:
    second = subprocess.run(
        [sys.executable, "-m", "pale_static", "serve", "--data", str(server.folder), "--port", "0"],
        capture_output=True, text=True, timeout=60, check=False,
    )  # fmt: skip
    assert second.returncode == 1
    assert (
        f"in use by Pale Static (process {server.process.pid}) at {server.address}/"
        in second.stderr
    )
    assert server.ask("GET", "/renders") == {"renders": [], "kept_bytes": 0}


def asked(address: str, **headers: str) -> tuple[int, dict[str, str], str]:
    class Stay(urllib.request.HTTPRedirectHandler):
        def redirect_request(self, *_: Any, **__: Any) -> None:
            return None

    request = urllib.request.Request(
        address, headers={k.replace("_", "-"): v for k, v in headers.items()}
    )
    try:
        with urllib.request.build_opener(Stay).open(request, timeout=30) as answer:
            return answer.status, dict(answer.headers), answer.read().decode()
    except urllib.error.HTTPError as fault:
        return fault.code, dict(fault.headers), fault.read().decode()


def test_off_this_machine_nobody_comes_in_without_the_key(tmp_path: Path) -> None:
    server = Server(tmp_path / "data", "--host", "0.0.0.0")
    try:
        address, _, key = server.address.partition("/?key=")
        port = address.rpartition(":")[2]
        base = f"http://127.0.0.1:{port}"
        assert len(key) >= 32
        for path in ("/api/effects", "/", "/shelf"):
            status, _, said = asked(base + path)
            assert status == 403
            assert "access key" in said
        assert asked(f"{base}/api/effects?key=x{key[1:]}x")[0] == 403
        # The host name does not matter; the key decides.
        assert asked(f"{base}/api/effects", Host="localhost")[0] == 403
        assert (
            asked(f"{base}/api/effects", Host="evil.example", Cookie=f"pale-static-key={key}")[0]
            == 403
        )
        status, headers, _ = asked(f"{base}/shelf?kind=look&key={key}")
        assert status == 302
        assert headers["Location"] == "/shelf?kind=look"
        assert "HttpOnly" in headers["Set-Cookie"]
        assert "SameSite=Lax" in headers["Set-Cookie"]
        assert asked(f"{base}/api/effects", Cookie=f"pale-static-key={key}")[0] == 200
        assert asked(f"{base}/api/effects", Authorization=f"Bearer {key}")[0] == 200
        host = address.removeprefix("http://").rpartition(":")[0]
        assert (
            asked(f"{base}/api/effects", Host=f"{host}:{port}", Cookie=f"pale-static-key={key}")[0]
            == 200
        )
        # The same address works after a restart.
        server.kill()
        server.start()
        assert server.address.endswith(key)
    finally:
        server.stop()


def test_the_door_needs_no_key_on_this_machine_alone(tmp_path: Path) -> None:
    for host in ("127.0.0.1", "localhost", "::1", "127.0.0.5"):
        assert door_for(host, tmp_path) == (Door(), host)
    door, named = door_for("0.0.0.0", tmp_path)
    assert door.key
    assert named not in ("0.0.0.0", "")
    assert LOOPBACK | own_names() <= door.hosts
    assert (tmp_path / "access-key").stat().st_mode & 0o077 == 0


def test_pages_of_other_sites_get_nothing_from_the_api(server: Server) -> None:
    for site in ("cross-site", "same-site"):
        status, _, said = asked(f"{server.address}/api/effects", Sec_Fetch_Site=site)
        assert status == 403
        assert json.loads(said)["detail"] == "The request came from another site."
    # A link from another site still opens the page itself.
    assert asked(f"{server.address}/shelf", Sec_Fetch_Site="cross-site")[0] == 200
    assert asked(f"{server.address}/api/effects", Sec_Fetch_Site="same-origin")[0] == 200
