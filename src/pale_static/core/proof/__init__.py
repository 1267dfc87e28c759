"""Proof: what can be measured about an effect."""

from .coverage import coverage_curve, jumps

__all__ = ["coverage_curve", "jumps"]
