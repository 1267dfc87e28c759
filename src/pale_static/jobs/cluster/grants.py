"""Signed, short-lived permission for one task of one film."""

from __future__ import annotations

import secrets
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from hashlib import sha256
from hmac import compare_digest, new
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

LIFE = 15 * 60
"""Seconds that a permission lasts. A task that outlives it gets a new one."""


class Grant(BaseModel):
    """Where a task gets its files and sends its stretches, and the permission to do so.

    ``until`` is a time of the machine that signed it. No other clock is asked.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    address: Annotated[str, Field(pattern=r"^https?://[^/@\s]+$", max_length=300)]
    task: Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]
    until: int
    signature: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]

    @property
    def query(self) -> str:
        """The permission as the query of an address."""
        return f"until={self.until}&signature={self.signature}"


@dataclass(frozen=True)
class Signer:
    """Signs permissions, and checks them. Its secret never leaves this process."""

    now: Callable[[], float] = time.time
    life: int = LIFE
    secret: bytes = field(default_factory=lambda: secrets.token_bytes(32), repr=False)

    def grant(self, address: str, task: str) -> Grant:
        """A permission for a task."""
        until = int(self.now()) + self.life
        return Grant(
            address=address, task=task, until=until, signature=self._signature(task, until)
        )

    def refusal(self, task: str, until: str, signature: str) -> tuple[int, str] | None:
        """The HTTP status and the reason why a permission does not hold; None if it does."""
        if not until.isdecimal() or len(until) > 12:
            return 403, "The signature is not valid."
        if not compare_digest(self._signature(task, int(until)).encode(), signature.encode()):
            return 403, "The signature is not valid."
        if int(until) < self.now():
            return 401, "The signature has expired."
        return None

    def _signature(self, task: str, until: int) -> str:
        return new(self.secret, f"{task}|{until}".encode(), sha256).hexdigest()
