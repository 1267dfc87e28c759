"""Frames: one source for everything that shows or writes pictures.

:mod:`.source` says what a source is, :mod:`.effect` and :mod:`.edit` make one, and :mod:`.names`
names what goes into a frame.
"""
