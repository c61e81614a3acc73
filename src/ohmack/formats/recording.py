"""Recordings as people bring them: WAV or FLAC of any width, as samples."""

from __future__ import annotations

from io import BytesIO

import numpy as np
import soundfile
from numpy.typing import NDArray

LONGEST_S, LEAST_HZ, MOST_HZ = 90.0, 16_000, 192_000


class BadRecording(ValueError):
    """A file that is no recording to work with, with the reason as an installer would say it."""


def read_recording(data: bytes) -> tuple[NDArray[np.float64], int]:
    """The samples of a recording.

    Parameters:
        data: the file, of one channel or several.

    Returns:
        (the loudest channel's samples between −1 and 1, samples a second).

    Raises:
        BadRecording: no file, no sound, too long, a rate out of range, or clipped.
    """
    whole, rate_hz = _samples(data)
    loudest = whole[:, int((whole**2).sum(axis=0).argmax())]
    peak = float(np.abs(loudest).max())
    if int((np.abs(loudest) >= 0.9999 * max(1.0, peak)).sum()) > 8:
        raise BadRecording("It is clipped: record it again with the input turned down.")
    return loudest, rate_hz


def read_music(data: bytes) -> tuple[NDArray[np.float64], int]:
    """The samples of a piece of music, which may touch full scale as masters do.

    Parameters:
        data: the file, of one channel or several.

    Returns:
        (samples between −1 and 1, shape (n, channels); samples a second).

    Raises:
        BadRecording: no file, no sound, too long, a rate out of range.
    """
    return _samples(data)


def _samples(data: bytes) -> tuple[NDArray[np.float64], int]:
    """(all channels, samples a second) of a file."""
    if not data:
        raise BadRecording("Choose a file first.")
    try:
        with soundfile.SoundFile(BytesIO(data)) as file:
            rate_hz, seconds = int(file.samplerate), len(file) / file.samplerate
            if seconds > LONGEST_S:
                raise BadRecording(f"It is {seconds:.0f} s long; at most {LONGEST_S:.0f} s are taken.")
            if not LEAST_HZ <= rate_hz <= MOST_HZ:
                raise BadRecording(f"It has {rate_hz} samples a second; {LEAST_HZ} to {MOST_HZ} are taken.")
            whole = file.read(dtype="float64", always_2d=True)
    except soundfile.LibsndfileError:
        raise BadRecording("The file is no recording that can be read: WAV or FLAC is wanted.") from None
    if not len(whole) or not np.isfinite(whole).all():
        raise BadRecording("The recording is empty or broken.")
    if float(np.abs(whole).max()) <= 1e-5:
        raise BadRecording("There is nothing but silence in it.")
    return whole, rate_hz
