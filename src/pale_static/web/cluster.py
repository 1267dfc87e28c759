"""Endpoints of the cluster that renders may go to."""

from __future__ import annotations

from importlib.util import find_spec
from typing import Literal

from flask import Blueprint
from pydantic import Field

from ..core.faults import Fault
from ..jobs.cluster.address import parsed
from ..store import cluster
from ..store.cluster import ClusterSettings
from .endpoint import Wire, endpoint
from .studio import studio

views = Blueprint("cluster", __name__)


class ClusterWorker(Wire):
    """A worker of the cluster: its state, what it does now, and what it has done for the render."""

    name: str
    address: str
    state: Literal["looking", "ready", "working", "silent", "refused"]
    sentence: str
    doing: str
    speed: float
    """Frames a second."""
    frames: int
    fetched: int
    """Bytes of material."""


class ClusterView(Wire):
    """The cluster's settings, and what is seen of it now.

    ``installed`` says whether this machine has Dask. ``sentence`` says why no worker is seen.
    """

    address: str
    reach: str
    used: bool
    or_here: bool
    installed: bool
    sentence: str
    workers: list[ClusterWorker]


class ChangeCluster(Wire):
    """New settings of the cluster; see ClusterView."""

    address: str = Field(default="", max_length=200)
    reach: str = Field(default="", max_length=200)
    used: bool = False
    or_here: bool = False


def _view() -> ClusterView:
    db = studio().library.db
    setting, seen = cluster.settings(db), cluster.look(db)
    return ClusterView(
        address=setting.address, reach=setting.reach, used=setting.used,
        or_here=setting.or_here, installed=find_spec("distributed") is not None,
        sentence=seen.get("sentence", ""),
        workers=[ClusterWorker.model_validate(one) for one in seen.get("workers", ())],
    )  # fmt: skip


@endpoint(views, "GET", "/cluster", answer=ClusterView)
def see_cluster() -> ClusterView:
    """The cluster, with its workers. It is looked at again while somebody asks."""
    return _view()


@endpoint(views, "POST", "/cluster", body=ChangeCluster, answer=ClusterView)
def change_cluster(body: ChangeCluster) -> ClusterView:
    """Set the cluster that new renders go to."""
    address = parsed(body.address) if body.address.strip() else ""
    if body.used and not address:
        raise Fault("Write the address of the scheduler first, as tcp://127.0.0.1:8786.")
    new = ClusterSettings(address, body.reach.strip(), body.used, body.or_here)
    cluster.change(studio().library.db, new)
    return _view()
