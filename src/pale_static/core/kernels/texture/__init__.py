"""Kernels that make patterns and surfaces."""
