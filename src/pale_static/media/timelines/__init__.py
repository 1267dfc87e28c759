"""Edits of other systems, in and out."""
