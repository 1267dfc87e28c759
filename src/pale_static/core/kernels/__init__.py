"""Numba kernels and nothing else.

Every kernel has an explicit signature. It is compiled once and later read from Numba's cache on
disk, when it is first called: a program that needs three of them does not wait for ninety. Each
takes ``first, last`` rows and is run over blocks of rows by :func:`rows.over`; a row never depends
on which block it is in, so the result is the same with one thread or many.
"""
