"""Storage: one SQLite file, and media files beside it named by content hash."""

from .database import Database
from .library import Library

__all__ = ["Database", "Library"]
