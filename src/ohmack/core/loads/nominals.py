"""What a speaker is by what it reads, where its nominal impedance was only assumed."""

from __future__ import annotations

from math import log

from ohmack.core.document import Basis
from ohmack.core.document.factory import ChannelPlace, RadioChannel
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.loads.driven import DC_HIGH, DC_LOW, DC_TYPICAL

NOMINALS_OHM = (4.0, 2.0, 8.0, 3.0, 6.0, 1.0, 16.0)  # what speakers are sold as, the commonest first; common practice


def nominal_of(read_ohm: float) -> float:
    """The nominal impedance [ohm] a DC resistance [ohm] is 75 to 105 % of, the commonest first; else the nearest."""
    held = (z for z in NOMINALS_OHM if DC_LOW * z <= read_ohm <= DC_HIGH * z)
    return next(held, min(NOMINALS_OHM, key=lambda z: abs(log(z * DC_TYPICAL / read_ohm))))


def sub_pair_of(vehicle: Vehicle, speaker: Speaker) -> RadioChannel | None:
    """The pair of a factory subwoofer that is alone on it; nothing but its coils is read there then."""
    pair = next((c for c in vehicle.channels if c.id == speaker.channel_id), None)
    alone = sum(s.channel_id == speaker.channel_id for s in vehicle.speakers) == 1
    return pair if pair is not None and pair.place is ChannelPlace.SUB and alone else None


def nominal_by_pair(vehicle: Vehicle, speaker: Speaker) -> float | None:
    """The nominal impedance [ohm] of a factory subwoofer by what its pair reads, where the one on file is assumed."""
    pair = sub_pair_of(vehicle, speaker)
    read_ohm = pair.pair_resistance_ohm.value if pair is not None else None
    if read_ohm is None or speaker.impedance_ohm.basis is not Basis.ASSUMED:
        return None
    nominal = nominal_of(read_ohm)
    return nominal if DC_LOW * nominal <= read_ohm <= DC_HIGH * nominal else None
