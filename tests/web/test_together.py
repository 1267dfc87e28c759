"""Several answers in one."""

from __future__ import annotations

import json
import struct
from typing import Any

import pytest

from pale_static.store import Library

from .test_api import Api
from .test_runs import opened

SIZE = "length=20&width=96&height=54"


@pytest.fixture
def api(demo: Library) -> Api:
    return opened(demo)


def parts(data: bytes) -> list[bytes]:
    found = []
    while data:
        (length,) = struct.unpack(">I", data[:4])
        found.append(data[4 : 4 + length])
        data = data[4 + length :]
    return found


def together(api: Api, *paths: str) -> list[tuple[dict[str, Any], bytes]]:
    answer = api.ask("POST", "/together", {"paths": [f"/api{path}" for path in paths]})
    assert answer.status_code == 200, answer.get_data()
    found = parts(answer.get_data())
    return [(json.loads(a), b) for a, b in zip(found[::2], found[1::2], strict=True)]


def test_answers_in_one_are_those_that_come_alone(api: Api) -> None:
    draft = api.post("/effects", {"macro": "ember-fray", "version": 1})
    base = f"/effects/{draft['id']}/{draft['revision']}"
    asked = [
        f"{base}/frame.jpg?{SIZE}&frame=6&step=fray.noise", f"{base}/coverage?length=20",
        f"{base}/strip.jpg?{SIZE}&places=3", "/effects/999/1/frame.jpg",
    ]  # fmt: skip
    found = together(api, *asked)
    alone = [
        api.ask("GET", path, status=status)
        for path, status in zip(asked, (200, 200, 200, 404), strict=True)
    ]
    assert [body for _, body in found] == [one.get_data() for one in alone]
    assert [head["status"] for head, _ in found] == [200, 200, 200, 404]
    assert [head["type"] for head, _ in found] == [one.mimetype for one in alone]


@pytest.mark.parametrize(
    "paths", [[], ["/api/steps"] * 17, ["/steps"], ["http://example.org/api/steps"], [7]]
)
def test_only_a_few_addresses_of_its_own_are_asked(api: Api, paths: Any) -> None:
    api.ask("POST", "/together", {"paths": paths}, status=422)


def test_an_address_inside_can_do_no_more_than_a_request(api: Api) -> None:
    view = api.post("/reels", {"name": "Other"})
    found = together(api, "/together", "/reels/%2e%2e/1", "/effects/1%00/2",
                     f"/reels/{view['id']}/{view['revision']}/ahead?frame=0&width=96&height=54")  # fmt: skip
    # What streams for long comes alone.
    assert [head["status"] for head, _ in found] == [404, 404, 404, 422]
