"""The weights of red, green and blue in luminance, as kernels take them."""

from __future__ import annotations

import numpy as np

# Rec. ITU-R BT.709-6, item 3.2.
WEIGHTS = (0.2126, 0.7152, 0.0722)
RED, GREEN, BLUE = (np.float32(weight) for weight in WEIGHTS)
