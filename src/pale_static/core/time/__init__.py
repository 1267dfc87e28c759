"""Time: frame rates, moments, eases, keys arranged, curves."""
