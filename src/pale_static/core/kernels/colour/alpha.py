"""The least alpha that still counts as visible."""

from __future__ import annotations

import numpy as np

THIN = np.float32(1e-20)
"""Alpha up to this counts as 0: its inverse would not fit into a float32."""
