"""Benchmarks: every figure beside a reference measured in the same run."""
