"""Kernels that change colours and convert between codes."""
