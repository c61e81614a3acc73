"""Test signals as samples between −1 and 1: sines, sweeps, pink noise, which channel is which, polarity."""

from __future__ import annotations

from math import pi, sqrt

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange, require

Floats = NDArray[np.float64]
RATE_HZ = 48_000
FADE_S = 0.02  # in and out, so that nothing clicks in a speaker
SINE_CREST = sqrt(2.0)  # a sine whose peaks reach full scale is 0 dBFS: AES17, from memory
NOISE_SEED = 17  # the same noise every time


def _amplitude(level_dbfs: float) -> float:
    if level_dbfs > 0:
        raise OutOfRange("level_dbfs", level_dbfs, "dBFS", "0 or less: above it the file itself clips")
    return float(10 ** (level_dbfs / 20))


def _times(seconds: float) -> Floats:
    require("seconds", seconds, "s")
    return np.arange(round(seconds * RATE_HZ)) / RATE_HZ


def faded(samples: Floats) -> Floats:
    """The samples with a fade in and out, half a cosine long."""
    many = min(len(samples) // 2, round(FADE_S * RATE_HZ))
    ramp = 0.5 - 0.5 * np.cos(pi * np.arange(many) / many)
    found = samples.copy()
    found[:many] *= ramp
    found[-many:] *= ramp[::-1]
    return found


def sine(hz: float, level_dbfs: float, seconds: float = 30.0) -> Floats:
    """A sine.

    Parameters:
        hz: its frequency [hz].
        level_dbfs: its level, 0 where its peaks reach full scale [dbfs].
        seconds: how long [s].

    Returns:
        samples at RATE_HZ.

    Raises:
        OutOfRange: a level over 0 dBFS, a length or frequency not above zero, or one the rate cannot hold.

    Source: AES17's definition of 0 dBFS, from memory.
    """
    require("hz", hz, "Hz")
    if hz >= RATE_HZ / 2:
        raise OutOfRange("hz", hz, "Hz", f"below {RATE_HZ // 2}")
    return faded(_amplitude(level_dbfs) * np.sin(2 * pi * hz * _times(seconds)))


def sweep(low_hz: float, high_hz: float, level_dbfs: float, seconds: float = 20.0) -> Floats:
    """A sine that rises evenly over the octaves.

    Parameters:
        low_hz: where it begins [hz].
        high_hz: where it ends [hz].
        level_dbfs: its level [dbfs].
        seconds: how long [s].

    Returns:
        samples at RATE_HZ.

    Raises:
        OutOfRange: as for `sine`, or an end under the beginning.

    Formula: phase 2π f₁ T/ln(f₂/f₁) (e^(t ln(f₂/f₁)/T) − 1). Source: textbook exponential sweep.
    """
    require("low_hz", low_hz, "Hz")
    if not low_hz < high_hz < RATE_HZ / 2:
        raise OutOfRange("high_hz", high_hz, "Hz", f"above {low_hz:g} and below {RATE_HZ // 2}")
    rate = np.log(high_hz / low_hz) / seconds
    phase = 2 * pi * low_hz * np.expm1(rate * _times(seconds)) / rate
    return faded(_amplitude(level_dbfs) * np.sin(phase))


def pink_noise(level_dbfs: float, seconds: float = 30.0, low_hz: float = 20.0, high_hz: float = 20_000.0) -> Floats:
    """Noise with as much power in every octave.

    Parameters:
        level_dbfs: its level by AES17: rms against a full-scale sine's [dbfs].
        seconds: how long [s].
        low_hz: its lower edge [hz].
        high_hz: its upper edge [hz].

    Returns:
        samples at RATE_HZ, the same every time.

    Raises:
        OutOfRange: a level whose peaks would clip, or a length not above zero.

    Source: 1/f power made in the spectrum: textbook; level by AES17, from memory.
    """
    many = len(_times(seconds))
    hz = np.fft.rfftfreq(many, 1 / RATE_HZ)
    inside = (hz >= low_hz) & (hz <= high_hz)
    angles = 2 * pi * np.random.default_rng(NOISE_SEED).random(len(hz))
    spectrum = np.where(inside, 1 / np.sqrt(np.maximum(hz, low_hz)), 0.0) * np.exp(1j * angles)
    plain = np.fft.irfft(spectrum, many)
    found: Floats = plain / np.sqrt(np.mean(plain**2)) * _amplitude(level_dbfs) / SINE_CREST
    if float(np.abs(found).max()) > 1:
        raise OutOfRange("level_dbfs", level_dbfs, "dBFS", "lower: the noise's peaks would clip")
    return faded(found)


def channel_names(level_dbfs: float = -20.0) -> tuple[Floats, Floats]:
    """Which channel is which: one pip on the left, then two on the right, over and over.

    Parameters:
        level_dbfs: of the pips [dbfs].

    Returns:
        (left, right) samples at RATE_HZ.

    Raises:
        OutOfRange: a level over 0 dBFS.

    Source: common practice.
    """
    pip, gap = sine(1000.0, level_dbfs, 0.25), np.zeros(round(0.25 * RATE_HZ))
    rest = np.zeros_like(pip)
    left = np.concatenate([pip, gap, rest, gap, rest, gap, gap])
    right = np.concatenate([rest, gap, pip, gap, pip, gap, gap])
    return np.tile(left, 8), np.tile(right, 8)


def polarity_pulses(level_dbfs: float = -10.0, seconds: float = 30.0) -> Floats:
    """Half waves that only go up: a cone the right way round jumps out at every one, and a microphone sees which.

    Parameters:
        level_dbfs: of their peaks [dbfs].
        seconds: how long [s].

    Returns:
        samples at RATE_HZ: half a sine of 50 Hz, twice a second, falling back to rest.

    Raises:
        OutOfRange: a level over 0 dBFS, or a length not above zero.

    Source: common practice.
    """
    times = _times(seconds) % 0.5
    found: Floats = _amplitude(level_dbfs) * np.where(times < 0.01, np.sin(pi * times / 0.01), 0.0)
    return found


def level_dbfs(samples: Floats) -> float:
    """The level of some samples by AES17: rms against a sine whose peaks reach full scale [dbfs].

    Parameters:
        samples: between −1 and 1.

    Returns:
        level [dbfs].

    Raises:
        OutOfRange: silence has no level.

    Source: AES17, from memory.

    >>> round(level_dbfs(np.sin(np.linspace(0, 200 * pi, 100_000, endpoint=False))), 3)
    0.0
    """
    rms = float(np.sqrt(np.mean(samples**2)))
    require("rms", rms, "")
    return float(20 * np.log10(rms * SINE_CREST))
