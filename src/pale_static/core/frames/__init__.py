"""Frames: the one source that everything which shows or writes pictures asks.

:mod:`.source` says what a source is, :mod:`.effect` and :mod:`.edit` make one, and :mod:`.names`
names what goes into a frame.
"""
