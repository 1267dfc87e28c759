"""The type of documents before a model has read them."""

from __future__ import annotations

from typing import Any

Plain = dict[str, Any]
