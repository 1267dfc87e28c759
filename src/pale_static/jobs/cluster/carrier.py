"""Sends the stretches of a film to the workers of a cluster, and to other workers if one fails."""

from __future__ import annotations

import queue
import secrets
import statistics
import tempfile
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ...core.faults import Fault
from ..films import Film, SplitWriter
from . import task
from .flights import Flight, Task, tasks_of
from .handing_out import HandingOut
from .membership import BARRED_FOR, Cluster, Member, NotThere
from .sealed import Sealing

TICK = 0.1
TURNS = 3
"""Workers that get a stretch before the film fails: the first one, and two others."""
SLOW = 4.0
"""A second worker gets a stretch too when it takes this many times its expected duration."""
PATIENT = 30.0
"""Seconds before a stretch counts as slow, however short it is."""
HERE_AFTER = 10.0
"""Seconds without a usable worker after which this machine goes on, if that was asked for."""
RENEWALS = 20
"""How often a task may find its permission expired."""


class GoOnHere(Exception):
    """The rest of the film shall be made on this machine."""


@dataclass(frozen=True)
class Seen:
    """A film on its way, as people see it.

    Parameters
    ----------
    sentence : str
        What it waits for; empty if for nothing.
    frames : int
        Its finished frames, with those of unfinished stretches.
    """

    sentence: str
    members: list[Member]
    frames: int

    @property
    def speed(self) -> float:
        """Frames a second of all workers that are working."""
        return sum(one.speed for one in self.members if one.state == "working")


Watch = Callable[[Seen], None]
"""Called about ten times a second. It may raise :class:`GoOnHere`, or anything else to stop."""


def _unwatched(_: Seen) -> None:
    pass


@dataclass
class ClusterCarrier:
    """Carries films to a cluster; see :func:`pale_static.jobs.films.write`.

    Parameters
    ----------
    watch : function
        Called often, with what the film waits for.
    or_here : bool
        Whether this machine makes the rest of a film that the cluster cannot make now. Else the
        film waits for the cluster.
    """

    cluster: Cluster
    watch: Watch = _unwatched
    or_here: bool = False

    def carry(self, film: Film, writer: SplitWriter) -> Iterator[tuple[int, Any]]:
        """See :class:`pale_static.jobs.films.Carrier`."""
        with tempfile.TemporaryDirectory(prefix="pale-static-") as folder:
            try:
                yield from _Carrying(self, film, writer, Path(folder)).frames()
            except GoOnHere:
                return


@dataclass
class _Carrying:
    """One film on its way."""

    carrier: ClusterCarrier
    film: Film
    writer: SplitWriter
    folder: Path
    waiting: deque[Task] = field(default_factory=deque)
    flights: dict[str, Flight] = field(default_factory=dict)
    taken: dict[int, int] = field(default_factory=dict)
    """Finished stretches: the count of frames by the first one."""
    news: queue.SimpleQueue[int] = field(default_factory=queue.SimpleQueue)
    paces: list[float] = field(default_factory=list)
    """Seconds a frame, of tasks that are done."""
    lock: threading.Lock = field(default_factory=threading.Lock)
    left: int = 0
    """Frames of stretches that have not arrived."""
    kept: int = 0
    """Frames of stretches that earlier films made."""
    moved: bool = False
    """Whether this machine has another address now, so its server must start again."""
    idle: float | None = None
    """The time at which the last usable worker was lost; None while there is one."""

    @property
    def cluster(self) -> Cluster:
        return self.carrier.cluster

    def frames(self) -> Iterator[tuple[int, Any]]:
        """Each finished frame: the number of frames finished before, and None."""
        wanted = list(self.writer.wanted())
        if not wanted:
            return
        sealing = Sealing(self.folder)
        packed = sealing.of(self.film).packed()
        self.waiting.extend(tasks_of(self.film.source, wanted))
        self.left = sum(count for _, count in wanted)
        self.kept = self.film.source.length - self.left
        for member in self.cluster.members.values():
            member.begin_film()
        while self.left:
            with self._server(sealing.files) as out:
                try:
                    while self.left and not self.moved:
                        self._tick(packed, out)
                        for count in self._arrived():
                            for _ in range(count):
                                self.left -= 1
                                yield self.film.source.length - self.left - 1, None
                finally:
                    self._cancel_all(out)
            self.moved = False

    def _server(self, files: Mapping[str, Path]) -> HandingOut:
        # The address is that of the way to the scheduler, so the scheduler is awaited first.
        host, port = self._insisting(self.cluster.own_place)
        try:
            tls = self.cluster.server_tls()
        except Fault as fault:
            if self.carrier.or_here:
                raise GoOnHere from fault
            raise
        return HandingOut(files, self.folder, self, host, port, tls)

    def _own_host(self) -> str:
        """This machine's address as workers reach it now; empty if that is unknown."""
        try:
            return str(self.cluster.own_place()[0])
        except (Fault, OSError):
            return ""

    def _insisting(self, ask: Callable[[], Any]) -> Any:
        """The answer of the cluster; while it does not answer, wait, or go on here."""
        while True:
            try:
                return ask()
            except (NotThere, OSError) as fault:
                sentence = fault.sentence if isinstance(fault, NotThere) else str(fault)
                self._wait(sentence)

    def _wait(self, sentence: str) -> None:
        """Nothing can be done now: say so, and wait a moment."""
        now = time.monotonic()
        self.idle = now if self.idle is None else self.idle
        if self.carrier.or_here and now - self.idle > HERE_AFTER:
            raise GoOnHere
        self._show(f"{sentence} The render waits.")
        time.sleep(TICK)

    def _show(self, sentence: str = "") -> None:
        """Tell the watcher."""
        with self.lock:
            done = self.kept + sum(self.taken.values())
            for flight in self.flights.values():
                done += max(0, flight.frames - flight.sent_frames)
        members, total = self._members(), self.film.source.length
        self.carrier.watch(Seen(sentence, members, min(total, done)))

    def _members(self) -> list[Member]:
        return list(self.cluster.members.values())

    def _arrived(self) -> Iterator[int]:
        """The frames of stretches that have arrived; waits a moment for the first."""
        try:
            yield self.news.get(timeout=TICK)
            while True:
                yield self.news.get_nowait()
        except queue.Empty:
            return

    def _tick(self, packed: bytes, out: HandingOut) -> None:
        """One look at the cluster: what ended, what hangs, what can begin."""
        cluster = self.cluster
        if cluster.lost:
            self._ground(out)
        try:
            cluster.look()
        except NotThere as fault:
            if self.flights:
                self._ground(out)
            return self._wait(fault.sentence)
        for name, flight in list(self.flights.items()):
            self._follow(name, flight, out)
        self._begin(packed, out)
        if not self.flights and (self.waiting or not any(cluster.fit())):
            return self._wait(_nobody(self._members()))
        self.idle = None
        return self._show()

    def _ground(self, out: HandingOut) -> None:
        """The scheduler is gone: all flights are lost, through no fault of their workers."""
        self._cancel_all(out)
        self.cluster.close()
        self._show(f"The scheduler at {self.cluster.address} went away. The render waits.")

    def _end(self, name: str, out: HandingOut, again: bool = True) -> Flight:
        """End a flight; what is left of its task waits for another worker."""
        flight = self.flights.pop(name)
        out.tasks.discard(name)
        if not flight.future.done():
            flight.future.cancel()
        member = self.cluster.members.get(flight.worker)
        if member is not None:
            member.end_task(time.monotonic() - flight.began)
        task_, others = flight.task, [one.task for one in self.flights.values()]
        task_.stretches = [one for one in task_.stretches if one[0] not in self.taken]
        if not task_.stretches and task_ in self.waiting:
            self.waiting.remove(task_)  # it waited for a second worker, which nobody needs now
        if again and task_.stretches and task_ not in others and task_ not in self.waiting:
            task_.doubled = False
            self.waiting.appendleft(task_)
        return flight

    def _follow(self, name: str, flight: Flight, out: HandingOut) -> None:
        """Look after one flight."""
        member, now = self.cluster.members.get(flight.worker), time.monotonic()
        if flight.future.done():
            return self._ended(name, flight, out)
        if member is None:
            return self._failed(name, "it ended", out)
        if member.state in ("silent", "refused"):
            return self._failed(name, "it stopped answering", out)
        left = {first for first, _ in flight.stretches} - flight.sent
        if left and left <= self.taken.keys():
            self._end(name, out)  # another worker was faster
            return None
        if self.paces and not flight.task.doubled:
            expected = statistics.median(self.paces) * flight.task.frames
            if now - flight.began > max(PATIENT, SLOW * expected):
                flight.task.doubled = True
                self.waiting.appendleft(flight.task)
        return None

    def _ended(self, name: str, flight: Flight, out: HandingOut) -> None:
        member = self.cluster.members.get(flight.worker)
        if flight.future.status != "finished":
            gone = flight.future.status == "cancelled" or member is None
            return self._failed(name, "it ended" if gone else _raised(flight.future), out)
        told = flight.future.result()
        outcome: task.Outcome = told["outcome"]
        if member is not None:
            member.made_now, member.fetched_now = told["frames"], told["fetched"]
        if outcome == "done":
            self.paces.append(told["seconds"] / max(1, told["frames"]))
            if any(first not in self.taken for first, _ in flight.task.stretches):
                return self._failed(name, "it did not send all that it made", out)
            self._end(name, out)
            return None
        if outcome in ("again", "unwanted"):
            flight.task.renewals += 1
            if flight.task.renewals > RENEWALS:
                return self._failed(name, told["sentence"], out)
            self._end(name, out)
            return None
        if outcome in ("no room", "unreachable", "other program"):
            self._end(name, out)
            if outcome == "unreachable":
                self.moved = self._own_host() not in ("", out.host)
            if member is not None and not self.moved:
                member.sentence = told["sentence"]
                member.barred_until = time.monotonic() + BARRED_FOR
                if outcome == "other program":
                    member.state = "refused"
            return None
        return self._failed(name, told["sentence"], out)

    def _failed(self, name: str, reason: str, out: HandingOut) -> None:
        """A worker could not do its task: another one gets it, twice."""
        flight = self._end(name, out)
        task_, member = flight.task, self.cluster.members.get(flight.worker)
        shown = member.name if member is not None else flight.worker
        task_.tried[flight.worker] = f"{shown}: {reason}"
        if len(task_.tried) < TURNS or not task_.stretches:
            return
        if self.carrier.or_here:
            raise GoOnHere
        reasons = "; ".join(task_.tried.values())
        raise Fault(
            f"{task_.name} could not be made by {len(task_.tried)} workers ({reasons}). "
            "Finished stretches are kept. Render again, or render the rest on this machine."
        )

    def _begin(self, packed: bytes, out: HandingOut) -> None:
        """Give a task to every worker that has none."""
        busy = {flight.worker for flight in self.flights.values()}
        for member in self.cluster.fit():
            if member.address in busy:
                continue
            chosen = next((one for one in self.waiting if member.address not in one.tried), None)
            if chosen is None and len(self.waiting) and not self.flights:
                chosen = self._second_chance(member)
            if chosen is None:
                continue
            self.waiting.remove(chosen)
            name = secrets.token_hex(8)
            work = task.Work.of(packed, chosen.stretches, out.grant(name))
            future = self.cluster.client.submit(
                task.make_stretches, work.model_dump_json(), key=f"pale-static-{name}",
                workers=[member.address], allow_other_workers=False, retries=0,
            )  # fmt: skip
            member.state, member.doing = "working", "waiting"
            self.flights[name] = Flight(
                chosen, frozenset(chosen.stretches), future, member.address, time.monotonic()
            )

    def _second_chance(self, member: Member) -> Task | None:
        """A task for a worker that failed at it before, if there is no other worker."""
        one = self.waiting[0]
        others = [other for other in self.cluster.fit() if other.address not in one.tried]
        return None if others else one

    def _cancel_all(self, out: HandingOut) -> None:
        for name in list(self.flights):
            self._end(name, out)

    def take(self, task: str, first: int, count: int, file: Path) -> None:
        """Take a finished stretch; called by the server's threads."""
        with self.lock:
            flight = self.flights.get(task)
            if flight is None:
                raise Fault("The stretch is not wanted any more.")
            flight.sent.add(first)
            if first in self.taken:
                return  # another worker was faster
            if (first, count) not in flight.stretches:
                raise Fault(f"Frames {first} to {first + count - 1} were not asked for.")
            self.writer.take(first, count, file)
            self.taken[first] = count
            # What it tells of its progress may come later than the stretch itself.
            self._made(flight, max(flight.frames, flight.sent_frames))
            self.news.put(count)

    def _made(self, flight: Flight, frames: int) -> None:
        """Store the number of frames that a task has made."""
        flight.frames = frames
        if flight.worker in self.cluster.members:
            self.cluster.members[flight.worker].made_now = frames

    def told(self, task: str, told: Mapping[str, Any]) -> None:
        """Note what a task is doing; called by the server's threads."""
        flight = self.flights.get(task)
        member = self.cluster.members.get(flight.worker) if flight else None
        if flight is None or member is None or "frames" not in told:
            return  # This message only renews a permission.
        member.doing = _words(told) or member.doing
        frames, fetched = (_whole(told.get(name)) for name in ("frames", "fetched"))
        self._made(flight, max(frames, flight.sent_frames))
        member.fetched_now = fetched
        seconds = member.seconds + time.monotonic() - flight.began
        member.speed = (member.frames + frames) / max(seconds, 1e-3)


def _whole(told: Any) -> int:
    """A number from a message; 0 for anything else."""
    return told if isinstance(told, int) and 0 <= told < 1 << 48 else 0


def _words(told: Mapping[str, Any]) -> str:
    """What a task is doing, for people. The message is checked: it came over the network."""
    doing = told.get("doing")
    numbers = (_whole(told.get(name)) for name in ("first", "count", "done", "bytes"))
    first, count, done, size = numbers
    if doing == "making":
        return f"makes frames {first} to {first + count - 1}, {done} of {count} done"
    if doing == "fetching":
        return f"fetches a file, {size / 1e6:.0f} MB so far"
    return {"opening": "opens the film", "sending": "sends a stretch"}.get(str(doing), "")


def _raised(future: Any) -> str:
    try:
        fault = future.exception(timeout=2)
    except Exception as other:  # the scheduler went away meanwhile
        fault = other
    return f"{type(fault).__name__}: {fault}"[:300]


def _nobody(members: list[Member]) -> str:
    """Why no worker can be given a task."""
    if not members:
        return "The scheduler has no workers yet. Start one."
    reasons = [f"{one.name}: {one.sentence}" for one in members if one.sentence]
    if not reasons:
        return "No worker has introduced itself yet."
    return f"No worker can make stretches now. {' '.join(reasons[:3])}"


__all__ = ["ClusterCarrier", "GoOnHere", "Seen"]
