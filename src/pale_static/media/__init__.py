"""Files in and out: video, stills and macro packages."""

from .foreign.reading import open_footage
from .pictures.stills import write_png

__all__ = ["open_footage", "write_png"]
