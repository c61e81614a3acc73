"""What lies in line with a speaker: planned capacitors, coils and pads, and the capacitor a tweeter brings."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.parts import Subwoofer
from ohmack.core.document.small_parts import SeriesCapacitor, SeriesCoil
from ohmack.core.document.vehicle import Speaker
from ohmack.core.loads.driven import new_driver, tweeter_at
from ohmack.core.loads.pads import pad_before
from ohmack.core.physics.filters import series_capacitor_uf
from ohmack.core.physics.pads import l_pad_ohm
from ohmack.core.physics.speaker_impedance import Before
from ohmack.core.record import record
from ohmack.core.reference import table

WHOLE = ("tweeter", "full range")  # a coaxial's or a woofer's own capacitor or crossover lets its bass pass


@record
class InLine:
    """What lies in line with one speaker, and whether its capacitor's value is only the usual one."""

    before: Before
    capacitor: SeriesCapacitor | None
    coil: SeriesCoil | None
    usual_hz: float | None = None  # the corner its own capacitor is taken to have


BEARS = 0.6  # of the usual high-pass for its size: lower a speaker is driven off its stops; common practice


def own_capacitor(design: Design, speaker: Speaker) -> bool:
    """Whether what plays in a place brings a capacitor of its own, and nothing below it passes."""
    new = new_driver(design, speaker.id)
    if new is not None:
        return new.own_high_pass and new.role in WHOLE
    if any(speaker.id in sub.at_ids for sub in design.parts_of(Subwoofer)):
        return False
    return speaker.own_capacitor.value is True


def held_back(design: Design, speaker: Speaker) -> bool:
    """Whether a capacitor keeps the bass out of this speaker alone, not out of its whole pair."""
    planned = any(speaker.id in part.at_ids for part in design.parts_of(SeriesCapacitor))
    return planned or own_capacitor(design, speaker)


def by_size_hz(cut_out_mm: float) -> float:
    """Where a speaker with a cut-out [mm] is high-passed over a subwoofer [hz]. Source: common practice."""
    return float(next(hz for from_mm, hz in table("crossovers", "high_pass")["rows"] if cut_out_mm >= from_mm))


def tweeter_hz() -> float:
    """Where a tweeter is high-passed [hz]. Source: common practice."""
    return float(table("crossovers", "tweeter")["high_pass_hz"])


def usual_hz(design: Design, place_id: str) -> float | None:
    """The usual high-pass of what plays in a place [hz]; None where its size is not known. Source: common practice."""
    if tweeter_at(design, place_id):
        return tweeter_hz()
    new = new_driver(design, place_id)
    if new is not None:
        return by_size_hz(new.cut_out_mm)
    speaker = next((s for s in design.vehicle.speakers if s.id == place_id), None)
    cut_out_mm = speaker.cut_out_mm.value if speaker is not None else None
    return None if cut_out_mm is None else by_size_hz(cut_out_mm)


def in_line_with(design: Design, speaker: Speaker, nominal_ohm: float, pair: bool = True) -> InLine:
    """What lies in line with a speaker, its own or its pair's.

    Parameters:
        design: the design.
        speaker: the place.
        nominal_ohm: of what plays there, which the usual capacitor of a tweeter is worked out from [ohm].
        pair: whether it plays from its pair of the car; what an amplifier drives has left that pair.

    Returns:
        capacitor, coil and pad; a capacitor it brings itself is taken as one for the usual corner of a tweeter, and of
        a full-range driver for that of its size.

    Source: usual corners: common practice.
    """
    places = {speaker.id, speaker.channel_id} if pair else {speaker.id}
    capacitor = next((p for p in design.parts_of(SeriesCapacitor) if places & set(p.at_ids)), None)
    coil = next((p for p in design.parts_of(SeriesCoil) if places & set(p.at_ids)), None)
    pad = pad_before(design, speaker.id)
    own_hz, farad = None, None
    if capacitor is not None:
        farad = capacitor.capacitance_uf * 1e-6
    elif own_capacitor(design, speaker):
        own_hz = usual_hz(design, speaker.id) if new_driver(design, speaker.id) is not None else tweeter_hz()
        farad = series_capacitor_uf(nominal_ohm, own_hz or tweeter_hz()) * 1e-6
    before = Before(
        farad,
        coil.inductance_mh / 1000 if coil is not None else 0.0,
        coil.dc_resistance_ohm if coil is not None else 0.0,
        l_pad_ohm(pad.takes_off_db, pad.made_for_ohm) if pad is not None else None,
    )
    return InLine(before, capacitor, coil, own_hz)
