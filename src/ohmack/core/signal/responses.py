"""Responses that were measured: how uneven they are, what the equaliser makes of them, and bass that is missing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ohmack.core.document.handles import at
from ohmack.core.document.links import Band, SpeakerLink
from ohmack.core.document.responses import Response
from ohmack.core.figures.figure import Book, Figure, Reading, fixed
from ohmack.core.physics.filter_families import Floats, level_db
from ohmack.core.physics.responses import smoothed
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.equaliser import bands_response

EVEN_HZ = 40.0, 12_000.0  # where a response is asked to be even, common practice
MIDDLE_HZ = 200.0, 2000.0  # what levels are given against
BASS_HZ = 35.0, 100.0  # what a subwoofer plays
THIRD, LEAST_POINTS = 3, 5

UNEVEN = Reading(
    "Uneven by", "db", "rms of thirds of an octave round their mean, 40 Hz to 12 kHz",
    lambda curve: uneven_db(*curve), PRACTICE,
)  # fmt: skip
EVENER = Reading(
    "Uneven by, with the equaliser", "db", "the same of measured level + 20 log₁₀ |bands|",
    lambda curve: uneven_db(*curve), PHYSICS,
)  # fmt: skip
BASS = Reading(
    "Bass against the middle", "db", "mean from 35 to 100 Hz − mean from 200 to 2000 Hz, thirds of an octave",
    lambda curve: bass_db(*curve), PRACTICE,
)  # fmt: skip


@record(eq=False)
class Measured:
    """One response: as it is, smoothed and against its own middle, and with the bands of the output it is heard
    through.
    """

    response: Response
    hz: Floats
    level: Floats  # [db], thirds of an octave, 0 in the middle
    with_bands: Floats | None  # None where no equaliser is set behind it
    link: SpeakerLink | None
    uneven: Figure | None  # None where it has too few points to say
    evener: Figure | None
    bass: Figure | None  # None where it does not reach down to the bass


def uneven_db(hz: Floats, level: Floats) -> float | None:
    """How far a response is from even [db rms]; None where it has fewer than five points where that is asked."""
    inside = level[(hz >= EVEN_HZ[0]) & (hz <= EVEN_HZ[1])]
    return float(np.std(inside)) if len(inside) >= LEAST_POINTS else None


def bass_db(hz: Floats, level: Floats) -> float | None:
    """How the bass stands against the middle [db]; None where either is missing."""
    bass, middle = (level[(hz >= low) & (hz <= high)] for low, high in (BASS_HZ, MIDDLE_HZ))
    return float(bass.mean() - middle.mean()) if len(bass) > 1 and len(middle) > 1 else None


def shown(response: Response) -> tuple[Floats, Floats]:
    """A response's frequencies, and its level over thirds of an octave against its middle [db]."""
    hz = np.array(response.hz)
    level = smoothed(hz, np.array(response.level_db), THIRD)
    middle = level[(hz >= MIDDLE_HZ[0]) & (hz <= MIDDLE_HZ[1])]
    return hz, np.asarray(level - float(middle.mean() if len(middle) else level.mean()))


def with_bands(hz: Floats, level: Floats, bands: Sequence[Band]) -> Floats:
    """What an equaliser makes of a response [db]. Source: linear chains multiply: textbook."""
    return np.asarray(level + level_db(bands_response(bands, hz)))


def compute_responses(book: Book) -> list[Measured]:
    """Every response of the car with its figures.

    Parameters:
        book: the book of the design.

    Returns:
        one entry a response, in the order they were read in.

    Source: see the readings.
    """
    links = {link.id: link for link in book.design.links_of(SpeakerLink)}
    found = []
    for response in book.design.vehicle.responses:
        hz, level = shown(response)
        link = links.get(response.through_id or "")
        terms = (fixed(f"{response.name}, points", float(len(hz)), "", at(response)),)
        uneven = bass = None
        if uneven_db(hz, level) is not None:
            uneven = book.reading(f"responses/{response.id}/uneven_db", UNEVEN, (hz, level), *terms)
        if bass_db(hz, level) is not None:
            bass = book.reading(f"responses/{response.id}/bass_db", BASS, (hz, level), *terms)
        after, evener = None, None
        if link is not None and link.bands:
            after = with_bands(hz, level, link.bands)
            bands = fixed("equaliser bands", float(len(link.bands)), "", at(link, lambda it: it.bands))
            if uneven is not None:
                evener = book.reading(f"responses/{response.id}/evener_db", EVENER, (hz, after), *terms, bands)
        found.append(Measured(response, hz, level, after, link, uneven, evener, bass))
    return found
