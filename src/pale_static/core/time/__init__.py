"""Time: frame rates, moments, eases."""
