"""Pads: two resistors before a speaker that take level off and keep the load."""

from __future__ import annotations

from math import log10

from ohmack.core.errors import require


def l_pad_ohm(takes_off_db: float, load_ohm: float) -> tuple[float, float]:
    """The resistors of an L-pad for a speaker.

    Parameters:
        takes_off_db: what is to be taken off, above zero [db].
        load_ohm: the speaker, taken as a resistor [ohm].

    Returns:
        in series with it and across it [ohm], shape (2,); with the speaker they are the load the speaker is alone.

    Raises:
        OutOfRange: a value not above zero.

    Formula: k = 10^(−A/20); R_s = Z (1 − k), R_p = Z k / (1 − k). Source: textbook circuit theory.
    """
    require("takes_off_db", takes_off_db, "dB", up_to=60)
    require("load_ohm", load_ohm, "Ω")
    k = 10 ** (-takes_off_db / 20)
    return load_ohm * (1 - k), load_ohm * k / (1 - k)


def padded_load_ohm(series_ohm: float, across_ohm: float, speaker_ohm: float) -> float:
    """The load a speaker and its pad make together.

    Parameters:
        series_ohm: the pad's resistor in line [ohm].
        across_ohm: the pad's resistor across the speaker [ohm].
        speaker_ohm: the speaker [ohm].

    Returns:
        load [ohm].

    Raises:
        OutOfRange: a value not above zero.

    Formula: R_s + R_p ∥ Z. Source: circuit theory.
    """
    for name, value in (("series_ohm", series_ohm), ("across_ohm", across_ohm), ("speaker_ohm", speaker_ohm)):
        require(name, value, "Ω")
    return series_ohm + across_ohm * speaker_ohm / (across_ohm + speaker_ohm)


def shares_through_pad(series_ohm: float, across_ohm: float, speaker_ohm: float) -> tuple[float, float]:
    """What part of the power into a pad and its speaker becomes of the speaker, and of the pad's hotter resistor.

    Parameters:
        series_ohm: the pad's resistor in line [ohm].
        across_ohm: the pad's resistor across the speaker [ohm].
        speaker_ohm: the speaker [ohm].

    Returns:
        the speaker's share and the hotter resistor's, 0 to 1, shape (2,).

    Raises:
        OutOfRange: a value not above zero.

    Formula: series resistor R_s / Z_all; what is left divides as the conductances. Source: circuit theory.
    """
    all_ohm = padded_load_ohm(series_ohm, across_ohm, speaker_ohm)
    in_series = series_ohm / all_ohm
    speaker = (1 - in_series) * across_ohm / (across_ohm + speaker_ohm)
    return speaker, max(in_series, 1 - in_series - speaker)


def padded_level_db(series_ohm: float, across_ohm: float, speaker_ohm: float) -> float:
    """The level of a speaker behind a pad against the same speaker without it, at the same voltage.

    Parameters:
        series_ohm: the pad's resistor in line [ohm].
        across_ohm: the pad's resistor across the speaker [ohm].
        speaker_ohm: the speaker [ohm].

    Returns:
        level [db], below zero.

    Raises:
        OutOfRange: a value not above zero.

    Formula: 20 log₁₀(R_p ∥ Z / (R_s + R_p ∥ Z)). Source: circuit theory.
    """
    all_ohm = padded_load_ohm(series_ohm, across_ohm, speaker_ohm)
    return 20 * log10(1 - series_ohm / all_ohm)
