"""Decide which requests are served: own addresses, own pages, and a key for other machines."""

from __future__ import annotations

import secrets
import socket
from contextlib import suppress
from dataclasses import dataclass
from hmac import compare_digest
from ipaddress import ip_address
from pathlib import Path
from urllib.parse import urlencode, urlsplit

from flask import Request, Response, redirect

LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})
_EVERYWHERE = ("0.0.0.0", "::")
COOKIE = "pale-static-key"
_YEAR = 365 * 24 * 3600


def is_loopback(host: str) -> bool:
    """Whether only this machine can reach an address."""
    with suppress(ValueError):
        return ip_address(host).is_loopback
    return host == "localhost"


def own_names() -> frozenset[str]:
    """Names and addresses by which other machines may reach this one."""
    names = {socket.gethostname(), socket.getfqdn()}
    with suppress(OSError):
        names |= {str(one[4][0]) for one in socket.getaddrinfo(socket.gethostname(), None)}
    # The address of the outgoing interface; nothing is sent (addresses of RFC 5737 and 3849).
    ways = ((socket.AF_INET, "192.0.2.1"), (socket.AF_INET6, "2001:db8::1"))
    for family, beyond in ways:
        with suppress(OSError), socket.socket(family, socket.SOCK_DGRAM) as way:
            way.connect((beyond, 9))
            names.add(str(way.getsockname()[0]))
    return frozenset(name.lower().partition("%")[0] for name in names if name)


def door_for(host: str, folder: Path) -> tuple[Door, str]:
    """The door of a server that listens at an address, and the name to print for it."""
    if is_loopback(host):
        return Door(), host
    names = own_names()
    named = host
    if host in _EVERYWHERE:
        family = 6 if host == "::" else 4
        reached = [name for name in sorted(names) if _reached(name, family)]
        named = reached[0] if reached else socket.gethostname()
    return Door(LOOPBACK | names | {host.lower()}, access_key(folder)), named


def _reached(name: str, family: int) -> bool:
    try:
        address = ip_address(name)
    except ValueError:
        return False
    return address.version == family and not (address.is_loopback or address.is_link_local)


def access_key(folder: Path) -> str:
    """The access key of a data folder. It is made once, so that saved addresses keep working."""
    path = folder / "access-key"
    if not path.exists():
        part = path.with_suffix(".part")
        part.touch(mode=0o600)
        part.write_text(secrets.token_urlsafe(24))
        part.replace(path)
    return path.read_text().strip()


@dataclass(frozen=True)
class Door:
    """Checks each request first.

    Parameters
    ----------
    hosts : frozenset of str
        Host names that are served. A site whose name points to this machine (DNS rebinding) is
        refused, because its name is not one of them.
    key : str
        The access key that every request needs; empty if only this machine can connect.
    """

    hosts: frozenset[str] = LOOPBACK
    key: str = ""

    def refusal(self, request: Request) -> str | None:
        """The reason why a request is not served, as a sentence; None if it is."""
        if _hostname(request.host) not in self.hosts:
            return "This address is not one that Pale Static serves."
        origin = request.headers.get("Origin")
        if origin is not None and origin != "null" and _place(origin) != request.host:
            return "The request came from another site."
        # Browsers send the origin of a request (Fetch Metadata, W3C); other clients do not.
        site = request.headers.get("Sec-Fetch-Site", "same-origin")
        reads = request.method in ("GET", "HEAD")
        if (not reads or request.path.startswith("/api/")) and (
            origin == "null" or site not in ("same-origin", "none")
        ):
            return "The request came from another site."
        if self.key and not self._knows(request):
            return (
                "Pale Static asks for its access key here. Open the whole address that it printed "
                "when it started, with “?key=” at its end."
            )
        return None

    def _knows(self, request: Request) -> bool:
        bearer = request.headers.get("Authorization", "").removeprefix("Bearer ")
        brought = (request.cookies.get(COOKIE, ""), request.args.get("key", ""), bearer)
        return any(compare_digest(one.encode(), self.key.encode()) for one in brought)

    def handed_over(self, request: Request) -> Response | None:
        """Redirect an address that holds the key to the same address without the key, and set a
        cookie."""
        if not self.key or "key" not in request.args or request.method != "GET":
            return None
        rest = [(name, value) for name, value in request.args.items(multi=True) if name != "key"]
        path = "/" + request.path.lstrip("/")
        answer = redirect(f"{path}?{urlencode(rest)}" if rest else path)
        answer.set_cookie(COOKIE, self.key, max_age=_YEAR, httponly=True, samesite="Lax", path="/")
        assert isinstance(answer, Response)
        return answer


def _place(origin: str) -> str | None:
    """Host and port of an Origin header; None if it is not an address."""
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return None


def _hostname(host: str) -> str | None:
    """The name in a Host header, without its port; None if it is not a host."""
    try:
        return urlsplit(f"//{host}").hostname
    except ValueError:
        return None
