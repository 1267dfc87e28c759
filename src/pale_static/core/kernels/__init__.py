"""Numba kernels and nothing else.

Every kernel has an explicit signature, so importing this package compiles all of them once and
later loads them from Numba's cache on disk. Each takes ``first, last`` rows and is run over
blocks of rows by :func:`rows.over`; a row never depends on which block it is in, so the result
is the same with one thread or many.
"""
