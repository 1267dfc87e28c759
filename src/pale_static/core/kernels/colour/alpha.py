"""The least alpha that still counts as visible."""

from __future__ import annotations

import numpy as np

THIN = np.float32(1e-20)
"""Alpha up to this is nothing: one over it would pass what a float32 holds."""
