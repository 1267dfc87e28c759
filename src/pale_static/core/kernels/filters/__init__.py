"""Kernels that blur, move, blend and join pictures."""
