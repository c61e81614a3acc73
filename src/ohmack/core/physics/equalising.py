"""A few bands that flatten a response: where, how much and how wide, with what a boost may be."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange, require
from ohmack.core.physics.filter_families import bell, level_db
from ohmack.core.record import record

Floats = NDArray[np.float64]
LOWEST_Q, HIGHEST_Q = 0.5, 8.0
MOST_CUT_DB = 15.0
WORTH_DB = 0.15  # a further band has to take so much off what is left, rms; common practice
PILED = 5.0  # how much worse a decibel of boost too much is than one left uneven
SHALLOW_DB = 0.8  # what is left of it is not worth a band


@record
class FlatBand:
    """One band of a proposal."""

    centre_hz: float
    gain_db: float
    q: float


@record
class Flattened:
    """A proposal: its bands, and how far the response is from even before and after it [db rms]."""

    bands: tuple[FlatBand, ...]
    before_db: float
    after_db: float


def bands_level_db(hz: Floats, bands: tuple[FlatBand, ...]) -> Floats:
    """What some bands do together.

    Parameters:
        hz: frequencies [hz].
        bands: of a proposal.

    Returns:
        level, one a frequency [db].

    Source: linear chains multiply: textbook.
    """
    found: Floats = np.zeros(len(hz))
    for band in bands:
        found = found + level_db(bell(hz, band.centre_hz, band.gain_db, band.q))
    return found


def flattened(
    hz: Floats, levels_db: Floats, low_hz: float, high_hz: float, most_bands: int = 4, most_boost_db: float = 3.0
) -> Flattened:
    """The bands that make a response as even as few bands can.

    Parameters:
        hz: frequencies, rising [hz].
        levels_db: its level there [db].
        low_hz: from where it is to be even [hz].
        high_hz: up to where [hz].
        most_bands: how many at most, 1 to 10.
        most_boost_db: how much a band may lift, 0 for cuts alone [db].

    Returns:
        the proposal; fewer bands where a further one brings nothing.

    Raises:
        OutOfRange: fewer than five points between the ends, ends upside down, bands or boost out of range.

    Formula: one band after the other where the rest is farthest from its mean, all of them adjusted together by least
    squares inside their bounds. Source: scipy.optimize.least_squares; few wide bands and little boost: common practice.
    """
    from scipy.optimize import least_squares  # half a second to load, and only those who equalise need it

    require("low_hz", low_hz, "hz")
    require("high_hz", high_hz, "hz", above=low_hz)
    require("most_bands", most_bands, "", up_to=10)
    require("most_boost_db", most_boost_db, "db", above=-1e-9, up_to=12)
    inside = (hz >= low_hz) & (hz <= high_hz)
    if int(inside.sum()) < 5:
        raise OutOfRange("low_hz", low_hz, "hz", "ends with at least five points of the response between them")
    where, plain = hz[inside], levels_db[inside]

    def rest(bands: tuple[FlatBand, ...]) -> Floats:
        after = plain + bands_level_db(where, bands)
        return np.asarray(after - after.mean())

    def left_of(x: Floats) -> Floats:
        """What is left, and what all bands together lift beyond what is allowed: bands may not be piled up."""
        made = _unpacked(x)
        over = np.maximum(0.0, bands_level_db(where, made) - most_boost_db)
        return np.concatenate([rest(made), PILED * over])

    bounds = _bounds(low_hz, high_hz, most_boost_db)
    bands: tuple[FlatBand, ...] = ()
    left = before = _rms(rest(()))
    for _ in range(most_bands):
        if float(np.abs(rest(bands)).max()) < SHALLOW_DB:
            break
        start = [
            *(_packed(band) for band in bands),
            _first(where, rest(bands), most_boost_db - bands_level_db(where, bands), bounds),
        ]
        found = least_squares(
            left_of, np.concatenate(start), max_nfev=60,
            bounds=(np.tile(bounds[0], len(start)), np.tile(bounds[1], len(start))),
        )  # fmt: skip
        more = _unpacked(found.x)
        after = _rms(rest(more))
        if left - after < WORTH_DB:
            break
        bands, left = more, after
    tidy = tuple(
        FlatBand(round(b.centre_hz, 1 if b.centre_hz < 100 else 0), round(b.gain_db, 1), round(b.q, 2))
        for b in sorted(bands, key=lambda b: b.centre_hz)
        if abs(b.gain_db) >= 0.1
    )
    return Flattened(tidy, before, _rms(rest(tidy)))


def _rms(values: Floats) -> float:
    return float(np.sqrt(np.mean(values**2)))


def _bounds(low_hz: float, high_hz: float, most_boost_db: float) -> tuple[Floats, Floats]:
    low = np.array([np.log(low_hz), -MOST_CUT_DB, np.log(LOWEST_Q)])
    return low, np.array([np.log(high_hz), max(most_boost_db, 1e-6), np.log(HIGHEST_Q)])


def _packed(band: FlatBand) -> Floats:
    return np.array([np.log(band.centre_hz), band.gain_db, np.log(band.q)])


def _unpacked(x: Floats) -> tuple[FlatBand, ...]:
    return tuple(
        FlatBand(float(np.exp(f)), float(g), float(np.exp(q))) for f, g, q in np.reshape(np.asarray(x), (-1, 3))
    )


def _first(where: Floats, rest: Floats, may_lift: Floats, bounds: tuple[Floats, Floats]) -> Floats:
    """Where a further band begins: the deepest hump it may cut, or the dip it may lift, whichever is farther off."""
    can = np.clip(-rest, bounds[0][1], np.maximum(0.0, may_lift))
    worst = int(np.abs(can).argmax())
    return np.asarray(
        np.clip([np.log(where[worst]), 0.7 * can[worst], np.log(1.4)], bounds[0] + 1e-9, bounds[1] - 1e-9)
    )
