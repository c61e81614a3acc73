"""The equaliser of an output: what its bands do together, and what a boost takes of the room there is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache

import numpy as np

from ohmack.core.document.links import Band
from ohmack.core.physics.filter_families import Complexes, Floats, bell, high_shelf, level_db, low_shelf

MADE: dict[str, Callable[[Floats, float, float, float], Complexes]] = {
    "band": bell, "low shelf": low_shelf, "high shelf": high_shelf,
}  # fmt: skip
LOOKED_HZ = np.geomspace(20.0, 20_000.0, 241)


def bands_response(bands: Sequence[Band], hz: Floats) -> Complexes:
    """What some bands in a row do.

    Parameters:
        bands: of one output.
        hz: frequencies [hz].

    Returns:
        complex response, one a frequency; 1 without any.

    Source: linear chains multiply: textbook.
    """
    found: Complexes = np.ones(len(hz), dtype=np.complex128)
    for band in bands:
        found = found * MADE[band.kind](hz, band.centre_hz, band.gain_db, band.q)
    return found


def most_boost(bands: Sequence[Band]) -> tuple[float, float]:
    """Where bands lift most, and by how much.

    Parameters:
        bands: of one output.

    Returns:
        (frequency [hz], lift [db]); no lift under 0 dB.

    Source: the bands together, every sixth of an octave and finer: textbook.
    """
    return _most(tuple((b.kind, b.centre_hz, b.gain_db, b.q) for b in bands))


@lru_cache(maxsize=128)
def _most(bands: tuple[tuple[str, float, float, float], ...]) -> tuple[float, float]:
    lift = level_db(bands_response([Band(kind=k, centre_hz=f, gain_db=g, q=q) for k, f, g, q in bands], LOOKED_HZ))
    peak = int(lift.argmax())
    return float(LOOKED_HZ[peak]), max(0.0, float(lift[peak]))
