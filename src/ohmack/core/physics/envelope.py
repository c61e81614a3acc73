"""How loud music is over time: its power, all of it and in the bass, in steps."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import require

Floats = NDArray[np.float64]
BASS_HZ = 100.0  # what a subwoofer is left with, common practice
FULL_SINE = 0.5  # the mean square of a sine of full scale, AES17


def envelopes(samples: Floats, rate_hz: float, step_s: float) -> tuple[Floats, Floats]:
    """The power of music over that of a sine of full scale, step by step.

    Parameters:
        samples: shape (n,) or (n, channels), full scale 1.
        rate_hz: samples a second [hz].
        step_s: length of a step [s].

    Returns:
        (all of it, what is below 100 Hz), one value a step, the last one of what is left; several channels are
        averaged.

    Raises:
        OutOfRange: a rate or a step not above zero.

    Formula: 2 × mean square; the bass through a Butterworth low-pass of the fourth order. Source: AES17 full scale
    (from memory); textbook filter.
    """
    require("rate_hz", rate_hz, "Hz")
    require("step_s", step_s, "s")
    from scipy.signal import butter, sosfilt  # half a second to load, and only those who read music in need it

    sound = samples.reshape(len(samples), -1)
    low = sosfilt(butter(4, BASS_HZ, fs=rate_hz, output="sos"), sound, axis=0)
    edges = np.arange(0, len(sound), max(1, round(step_s * rate_hz)))

    def power(values: Floats) -> Floats:
        square = (values**2).mean(axis=1)
        lengths = np.diff(np.append(edges, len(square)))
        return np.asarray(np.add.reduceat(square, edges) / lengths / FULL_SINE, dtype=np.float64)

    return power(sound), power(low)
