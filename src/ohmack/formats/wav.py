"""Samples as a WAV file: 16 bits, one channel or two."""

from __future__ import annotations

from collections.abc import Sequence
from io import BytesIO

import numpy as np
import soundfile
from numpy.typing import NDArray

FULL = 32_767  # of 16 bits


def write_wav(channels: Sequence[NDArray[np.float64]], rate_hz: int) -> bytes:
    """A WAV file.

    Parameters:
        channels: samples between −1 and 1, one row a channel, equally long.
        rate_hz: samples a second.

    Returns:
        the file.
    """
    whole = np.round(np.clip(np.stack(channels, axis=1), -1.0, 1.0) * FULL).astype("<i2")
    into = BytesIO()
    soundfile.write(into, whole, rate_hz, format="WAV", subtype="PCM_16")
    return into.getvalue()
