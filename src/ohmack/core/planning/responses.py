"""Edits that responses make: one taken in, and bands that flatten one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import Band, SpeakerLink
from ohmack.core.document.responses import MeasuredAt, Response, Taken
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import NotPossible, UnknownName
from ohmack.core.physics.equalising import Flattened, flattened
from ohmack.core.signal.responses import shown

MOST = 12


def take_in(
    design: Design, name: str, where: str, taken: str, step: str, hz: Sequence[float], level_db: Sequence[float]
) -> tuple[Edit, ...]:
    """The edit that keeps a response.

    Parameters:
        design: the design.
        name: what it is, in words.
        where: where it was taken, in the words of `MeasuredAt`.
        taken: before or after the work, in the words of `Taken`.
        step: the volume step, in words.
        hz: frequencies, rising [hz].
        level_db: levels [db].

    Returns:
        the edit.

    Raises:
        NotPossible: as many are there as are kept.
    """
    if len(design.vehicle.responses) >= MOST:
        raise NotPossible("response", f"{MOST} responses are kept; take one out first.")
    places = {place.value for place in MeasuredAt}
    tree = {
        "id": free_id("response", {r.id for r in design.vehicle.responses}),
        "name": name or "Response",
        "measured_at": where if where in places else MeasuredAt.TAP.value,
        "taken": taken if taken in {t.value for t in Taken} else Taken.BEFORE.value,
        "step": step,
        "hz": list(hz),
        "level_db": list(level_db),
    }
    return (Edit(op="add", path=at_the(Vehicle, lambda it: it.responses), value=tree),)


def response_of(design: Design, own: str) -> Response:
    """A response by its id.

    Raises:
        UnknownName: there is none.
    """
    found = next((r for r in design.vehicle.responses if r.id == own), None)
    if found is None:
        raise UnknownName("response", own)
    return found


def flatten(
    design: Design,
    own: str,
    outputs: Sequence[str],
    low_hz: float,
    high_hz: float,
    most_bands: int,
    most_boost_db: float,
) -> tuple[Flattened, tuple[Edit, ...]]:
    """The bands that flatten a response, and the edits that set them.

    Parameters:
        design: the design.
        own: id of the response.
        outputs: ids of the speaker links that get them; what they had is replaced.
        low_hz: from where it is to be even [hz].
        high_hz: up to where [hz].
        most_bands: how many at most.
        most_boost_db: how much a band may lift [db].

    Returns:
        (the proposal, the edits).

    Raises:
        UnknownName: no such response.
        NotPossible: no output is named.
        OutOfRange: ends, bands or boost no equaliser has.
    """
    response = response_of(design, own)
    links = [link for link in design.links_of(SpeakerLink) if link.id in outputs]
    if not links:
        raise NotPossible("outputs", "Choose the outputs that play it.")
    hz, level = shown(response)
    found = flattened(np.asarray(hz), np.asarray(level), low_hz, high_hz, most_bands, most_boost_db)
    bands = [Band(centre_hz=b.centre_hz, gain_db=b.gain_db, q=b.q).model_dump() for b in found.bands]
    edits = [Edit(path=at(link, lambda it: it.bands), value=bands) for link in links]
    return found, (*edits, Edit(path=at(response, lambda it: it.through_id), value=links[0].id))
