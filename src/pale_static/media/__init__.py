"""Files in and out: video, stills and macro packages."""

from .opening import open_footage
from .stills import write_png

__all__ = ["open_footage", "write_png"]
