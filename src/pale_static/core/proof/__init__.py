"""Proof: what can be measured about an effect: coverage, curves, mirrored ghosts."""

from .coverage import coverage_curve, jumps

__all__ = ["coverage_curve", "jumps"]
