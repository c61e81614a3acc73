"""Tones: read back from their files by an independent reader, exact in level and frequency."""

from __future__ import annotations

from io import BytesIO
from typing import Any

import numpy as np
import pytest
from scipy import signal
from scipy.io import wavfile

from ohmack.core.errors import OutOfRange
from ohmack.core.physics.tones import (
    RATE_HZ,
    channel_names,
    faded,
    level_dbfs,
    pink_noise,
    polarity_pulses,
    sine,
    sweep,
)
from ohmack.formats.wav import write_wav


def read_back(*channels: Any) -> Any:
    """The samples of a file as scipy reads them, [sample, channel]."""
    rate, samples = wavfile.read(BytesIO(write_wav(channels, RATE_HZ)))
    assert rate == RATE_HZ
    return samples.reshape(len(samples), -1) / 32_767


@pytest.mark.parametrize(("hz", "level"), [(40.0, 0.0), (50.0, -5.0), (1000.0, -10.0), (1000.0, -20.0)])
def test_a_sine_has_its_level_and_frequency_in_the_file(hz: float, level: float) -> None:
    """0 dBFS is the sine whose peaks reach full scale (AES17, from memory): within 0.01 dB, the line where it is."""
    samples = read_back(sine(hz, level, 4.0))[:, 0]
    middle = samples[RATE_HZ : 3 * RATE_HZ]  # whole periods, no fade
    assert level_dbfs(middle) == pytest.approx(level, abs=0.01)
    assert np.abs(middle).max() == pytest.approx(10 ** (level / 20), rel=1e-3)
    spectrum = np.abs(np.fft.rfft(middle))
    assert np.fft.rfftfreq(len(middle), 1 / RATE_HZ)[spectrum.argmax()] == pytest.approx(hz)
    other = np.delete(spectrum, spectrum.argmax())
    assert other.max() < spectrum.max() * 1e-3  # no distortion of its own
    assert abs(samples[0]) < 1e-3  # it begins without a click


def test_pink_noise_has_its_level_and_as_much_in_every_octave() -> None:
    """Octaves of equal power within 0.5 dB by scipy's spectrum; level within 0.1 dB, its fades counted."""
    samples = read_back(pink_noise(-20.0, 30.0))[:, 0]
    assert level_dbfs(samples) == pytest.approx(-20.0, abs=0.1)
    hz, power = signal.welch(samples, RATE_HZ, nperseg=RATE_HZ)
    octaves = [power[(hz >= low) & (hz < 2 * low)].sum() for low in (40, 80, 160, 320, 640, 1280, 2560, 5120)]
    levels = 10 * np.log10(octaves)
    assert np.ptp(levels) < 0.5
    assert (pink_noise(-20.0, 1.0) == pink_noise(-20.0, 1.0)).all()
    with pytest.raises(OutOfRange, match="peaks"):
        pink_noise(-3.0, 5.0)


def test_a_sweep_spends_as_long_in_every_octave() -> None:
    """By scipy's exponential chirp, sample for sample where nothing is faded."""
    own = sweep(20.0, 20_000.0, -10.0, 10.0)
    times = np.arange(len(own)) / RATE_HZ
    other = 10**-0.5 * signal.chirp(times, 20.0, 10.0, 20_000.0, method="logarithmic", phi=-90)
    inside = slice(RATE_HZ, 9 * RATE_HZ)
    assert own[inside] == pytest.approx(other[inside], abs=1e-5)


def test_channels_and_polarity() -> None:
    """One pip left, two right, never together; pulses that only go up."""
    left, right = read_back(*channel_names()).T
    assert not ((np.abs(left) > 0.001) & (np.abs(right) > 0.001)).any()

    def pips(channel: Any) -> int:
        loud = np.convolve(np.abs(channel), np.ones(480) / 480, "same") > 0.01
        return int((np.diff(loud.astype(int)) == 1).sum()) + int(loud[0])

    assert pips(right) == 2 * pips(left)
    pulses = read_back(polarity_pulses(-10.0, 2.0))[:, 0]
    assert pulses.min() == 0.0
    assert pulses.max() == pytest.approx(10**-0.5, rel=1e-3)


def test_a_tone_begins_and_ends_in_silence() -> None:
    """A step into a speaker is a click: the first and the last sample are nothing, the middle is whole."""
    rows = faded(np.ones(48_000))
    assert (rows[0], rows[-1]) == pytest.approx((0.0, 0.0))
    assert rows[24_000] == 1.0
    assert np.all(np.diff(rows[:24_000]) >= 0)
    assert rows == pytest.approx(rows[::-1])


def test_what_cannot_be_played_is_refused() -> None:
    for bad in (lambda: sine(40.0, 0.1), lambda: sine(0.0, -5.0), lambda: sine(24_000.0, -5.0),
                lambda: sine(40.0, -5.0, 0.0), lambda: sweep(200.0, 100.0, -5.0), lambda: sweep(20.0, 30_000.0, -5.0),
                lambda: level_dbfs(np.zeros(10))):  # fmt: skip
        with pytest.raises(OutOfRange):
            bad()
