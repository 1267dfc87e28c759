"""Pale Static: procedural effects for video edits, packaged as macros."""

__version__ = "0.1.0"
