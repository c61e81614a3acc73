"""What a recording says: the response between this job's sweep or noise and it, or how a tone is distorted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ohmack.core.physics.filter_families import Floats
from ohmack.core.physics.responses import at_rate, distortion, grid_hz, noise_response, swept_response
from ohmack.core.physics.tones import RATE_HZ, sweep
from ohmack.core.signal.tones import SECONDS, SWEEP_DBFS

HEARD_HZ = 20.0, 20_000.0
TO_THE_TOP = 0.45  # of a rate: nearer to half of it a recording's own filter falls
PER_OCTAVE = 12


def _grid(rate_hz: int) -> Floats:
    return grid_hz(HEARD_HZ[0], min(HEARD_HZ[1], TO_THE_TOP * min(rate_hz, RATE_HZ)), PER_OCTAVE)


def swept(samples: Floats, rate_hz: int, gate_ms: float | None = None) -> tuple[Floats, Floats]:
    """The response a recording of this job's sweep shows.

    Parameters:
        samples: the recording.
        rate_hz: samples a second [hz].
        gate_ms: how much behind the first sound is kept, None for all [ms].

    Returns:
        (frequencies [hz], levels [db]).

    Raises:
        OutOfRange: too short or silent.

    Source: see `physics.responses`.
    """
    hz, played = _grid(rate_hz), sweep(*HEARD_HZ, SWEEP_DBFS, SECONDS)
    return hz, swept_response(at_rate(samples, rate_hz, RATE_HZ), played, RATE_HZ, hz, gate_ms)


def heard_in_noise(samples: Floats, rate_hz: int) -> tuple[Floats, Floats]:
    """The same of this job's pink noise: its shape, not its level.

    Parameters:
        samples: the recording.
        rate_hz: samples a second [hz].

    Returns:
        (frequencies [hz], levels [db]).

    Raises:
        OutOfRange: too short or silent.

    Source: see `physics.responses`.
    """
    hz = _grid(rate_hz)
    return hz, noise_response(samples, rate_hz, hz)


def less_microphone(
    hz: Floats, level_db: Floats, microphone_hz: Sequence[float], microphone_db: Sequence[float]
) -> Floats:
    """A response without what the microphone adds.

    Parameters:
        hz: frequencies [hz].
        level_db: levels there [db].
        microphone_hz: frequencies of its correction, rising [hz].
        microphone_db: what it shows too much there [db].

    Returns:
        levels [db], the correction straight between its points over the octaves.

    Source: linear chains add in decibels: textbook.
    """
    return np.asarray(level_db - np.interp(np.log(hz), np.log(microphone_hz), microphone_db))


def distorted(samples: Floats, rate_hz: int) -> tuple[float, float]:
    """How a recorded tone is distorted, its beginning and end left out.

    Parameters:
        samples: the recording.
        rate_hz: samples a second [hz].

    Returns:
        (the tone [hz], to a hertz; harmonics over the fundamental in percent).

    Raises:
        OutOfRange: too short, silent, or no steady tone.

    Source: see `physics.responses`.
    """
    edge = min(len(samples) // 8, rate_hz // 4)
    tone_hz, _, share = distortion(samples[edge : len(samples) - edge], rate_hz)
    return float(round(tone_hz)), round(100 * share, 2)
