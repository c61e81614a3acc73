"""Responses out of recordings: a sweep taken apart, noise by bands, smoothing, and what a sine was distorted by."""

from __future__ import annotations

from math import gcd

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange, require

Floats = NDArray[np.float64]
FLOOR = 1e-6  # of the played spectrum's peak: below it nothing was played, and nothing is divided by it
HARMONICS = 10
LEAST_SECONDS = 0.5


def grid_hz(low_hz: float, high_hz: float, per_octave: int = 24) -> Floats:
    """Frequencies evenly over the octaves.

    Parameters:
        low_hz: the first [hz].
        high_hz: none is above it [hz].
        per_octave: how many an octave.

    Returns:
        frequencies, rising [hz].

    Raises:
        OutOfRange: a frequency not above zero, or the ends upside down.

    Source: none: a choice of places.
    """
    require("low_hz", low_hz, "hz")
    require("high_hz", high_hz, "hz", above=low_hz)
    many = int(np.floor(per_octave * np.log2(high_hz / low_hz) + 1e-9)) + 1
    return np.asarray(low_hz * 2.0 ** (np.arange(many) / per_octave))


def at_rate(samples: Floats, from_hz: int, to_hz: int) -> Floats:
    """Samples at another rate.

    Parameters:
        samples: as they were recorded.
        from_hz: their rate [hz].
        to_hz: the rate wanted [hz].

    Returns:
        samples at that rate.

    Source: scipy.signal.resample_poly.
    """
    from scipy.signal import resample_poly

    if from_hz == to_hz:
        return samples
    common = gcd(from_hz, to_hz)
    return np.asarray(resample_poly(samples, to_hz // common, from_hz // common), dtype=np.float64)


def swept_response(
    recorded: Floats, played: Floats, rate_hz: float, at_hz: Floats, gate_ms: float | None = None
) -> Floats:
    """What lies between a sweep that was played and its recording.

    Parameters:
        recorded: samples of the recording; it may begin late and end later.
        played: samples of the sweep.
        rate_hz: samples a second of both [hz].
        at_hz: where the response is wanted [hz].
        gate_ms: how much of the impulse response behind its peak is kept, None for all [ms].

    Returns:
        level, one a frequency [db]; 0 where the recording is as loud as what was played.

    Raises:
        OutOfRange: a recording shorter than half a second or silent, or a frequency the rate does not hold.

    Formula: H = R P* / (|P|² + floor); the impulse response cut with half a Hann window behind the gate. Source:
    textbook: deconvolution in the spectrum.
    """
    require("seconds", len(recorded) / rate_hz, "s", above=LEAST_SECONDS)
    require("recorded", float(np.abs(recorded).max()), "")
    if float(at_hz.max()) >= rate_hz / 2:
        raise OutOfRange("at_hz", float(at_hz.max()), "hz", f"below {rate_hz / 2:g}, half the recording's rate")
    size = 1 << int(np.ceil(np.log2(len(recorded) + len(played))))
    sent = np.fft.rfft(played, size)
    power = np.abs(sent) ** 2
    transfer = np.fft.rfft(recorded, size) * np.conj(sent) / (power + FLOOR * power.max())
    if gate_ms is not None:
        transfer = _gated(transfer, size, rate_hz, gate_ms)
    hz = np.fft.rfftfreq(size, 1 / rate_hz)
    return _banded(np.asarray(hz, dtype=np.float64), np.asarray(np.abs(transfer) ** 2, dtype=np.float64), at_hz)


def _gated(transfer: NDArray[np.complex128], size: int, rate_hz: float, gate_ms: float) -> NDArray[np.complex128]:
    """The transfer function of what comes first: the peak, a little before it, and so much behind."""
    impulse = np.fft.irfft(transfer, size)
    peak = int(np.abs(impulse).argmax())
    before, behind = round(0.001 * rate_hz), max(2, round(gate_ms / 1000 * rate_hz))
    kept = np.roll(impulse, before - peak)
    window = np.zeros(size)
    window[: before + behind // 2] = 1.0
    fall = before + behind - (before + behind // 2)
    window[before + behind // 2 : before + behind] = 0.5 + 0.5 * np.cos(np.pi * np.arange(fall) / fall)
    return np.asarray(np.fft.rfft(kept * window))


def _banded(hz: Floats, power: Floats, at_hz: Floats, octave: float = 1 / 24) -> Floats:
    """Mean power in a band round every frequency as a level [db]; between bins where a band holds none."""
    whole = np.concatenate([[0.0], np.cumsum(power)])
    low = np.searchsorted(hz, at_hz * 2 ** (-octave / 2))
    high = np.searchsorted(hz, at_hz * 2 ** (octave / 2))
    between = np.interp(at_hz, hz, power)
    mean = np.where(high > low, (whole[high] - whole[low]) / np.maximum(high - low, 1), between)
    return np.asarray(10 * np.log10(np.maximum(mean, 1e-20)))


def noise_response(recorded: Floats, rate_hz: float, at_hz: Floats) -> Floats:
    """What lies between pink noise that was played and its recording, as far as a spectrum tells.

    Parameters:
        recorded: samples of the recording.
        rate_hz: samples a second [hz].
        at_hz: where it is wanted [hz].

    Returns:
        level, one a frequency [db], against its own mean from 200 to 2000 Hz.

    Raises:
        OutOfRange: a recording shorter than half a second or silent, or a frequency the rate does not hold.

    Formula: mean of overlapping Hann spectra (Welch) times frequency, as pink noise has as much power in every octave.
    Source: scipy.signal.welch; textbook.
    """
    from scipy.signal import welch  # half a second to load, and only those who measure need it

    require("seconds", len(recorded) / rate_hz, "s", above=LEAST_SECONDS)
    require("recorded", float(np.abs(recorded).max()), "")
    if float(at_hz.max()) >= rate_hz / 2:
        raise OutOfRange("at_hz", float(at_hz.max()), "hz", f"below {rate_hz / 2:g}, half the recording's rate")
    hz, density = welch(recorded, rate_hz, nperseg=min(len(recorded), 1 << 15))
    level = _banded(hz, density * np.maximum(hz, 1.0), at_hz, 1 / 6)
    middle = (at_hz >= 200) & (at_hz <= 2000)
    return np.asarray(level - float(np.mean(level[middle] if middle.any() else level)))


def smoothed(hz: Floats, level_db: Floats, per_octave: int) -> Floats:
    """A response smoothed over a part of an octave.

    Parameters:
        hz: frequencies, rising [hz].
        level_db: levels there [db].
        per_octave: 3 for a third of an octave.

    Returns:
        mean power within half a part on either side, as a level [db].

    Raises:
        OutOfRange: no part of an octave.

    Source: common practice in acoustics: power means over fractions of an octave.
    """
    require("per_octave", per_octave, "")
    power = 10 ** (level_db / 10)
    whole = np.concatenate([[0.0], np.cumsum(power)])
    half = 2 ** (0.5 / per_octave)
    low, high = np.searchsorted(hz, hz / half - 1e-9), np.searchsorted(hz, hz * half + 1e-9)
    return np.asarray(10 * np.log10((whole[high] - whole[low]) / np.maximum(high - low, 1)))


def distortion(recorded: Floats, rate_hz: float) -> tuple[float, float, float]:
    """What a recorded sine is, and by how much it is distorted.

    Parameters:
        recorded: samples of a steady sine, its beginning and end left out.
        rate_hz: samples a second [hz].

    Returns:
        (its frequency [hz], its rms against full scale, harmonics 2 to 10 over the fundamental as a share).

    Raises:
        OutOfRange: a recording shorter than half a second, silent, or without a tone between 20 Hz and 10 kHz.

    Formula: Blackman-Harris window, energies of the lobes round the harmonics. Source: scipy.signal.windows; textbook.
    """
    from scipy.signal.windows import blackmanharris

    require("seconds", len(recorded) / rate_hz, "s", above=LEAST_SECONDS)
    require("recorded", float(np.abs(recorded).max()), "")
    window = blackmanharris(len(recorded), sym=False)
    power = np.abs(np.fft.rfft(recorded * window)) ** 2
    width = rate_hz / len(recorded)
    tones = np.arange(len(power)) * width
    wanted = np.where((tones >= 20) & (tones <= 10_000), power, 0.0)
    peak = int(wanted.argmax())
    if wanted[peak] <= 0 or wanted[max(0, peak - 4) : peak + 5].sum() < 0.1 * power[1:].sum():
        raise OutOfRange("recorded", float(tones[peak]), "hz", "one steady tone from 20 Hz to 10 kHz")
    lobe = slice(max(0, peak - 4), peak + 5)
    tone_hz = float((tones[lobe] * power[lobe]).sum() / power[lobe].sum())

    def energy(hz: float) -> float:
        middle = round(hz / width)
        return float(power[max(0, middle - 4) : middle + 5].sum()) if hz < rate_hz / 2 - 5 * width else 0.0

    share = np.sqrt(sum(energy(n * tone_hz) for n in range(2, HARMONICS + 1)) / energy(tone_hz))
    return tone_hz, float(np.sqrt(np.mean(recorded**2))), float(share)
