"""What a part's papers say, in a line."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.amplifiers import Amplifier, ChannelGroup, GainKnobs, Rating
from ohmack.core.document.boxes import Box
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import (
    Accessory,
    CableReel,
    ChargingRelay,
    Converter,
    DistributionBlock,
    Driver,
    FuseHolder,
    FuseLink,
    HeadUnit,
    LineCable,
    PoweredSubwoofer,
    StiffeningCapacitor,
    Subwoofer,
    VoltageConverter,
)
from ohmack.core.document.small_parts import (
    CrossoverNet,
    LineIsolator,
    LoadResistor,
    MountingRing,
    SeriesCapacitor,
    SeriesCoil,
    SpeakerPad,
    SwitchingRelay,
)
from ohmack.core.wording import amount, count, listed, trimmed


def _ratings(rows: Sequence[Rating]) -> str:
    return ", ".join(f"{amount(r.power_w, 'w')} at {trimmed(r.load_ohm)} Ω" for r in rows)


def _span(low_v: float | None, high_v: float | None) -> str:
    low = f"{amount(low_v, 'v')} to " if low_v is not None else "up to "
    return f"{low}{amount(high_v or 0.0, 'v')}"


def _group(group: ChannelGroup) -> str:
    bridged = f"; bridged {_ratings(group.bridged_ratings)}" if group.bridged_ratings else ""
    return f"{group.count} × {_ratings(group.ratings)}{bridged}; lowest load {trimmed(group.lowest_load_ohm)} Ω"


def _amplifier(part: Amplifier) -> str:
    spans = list(dict.fromkeys((g.sensitivity_low_v, g.sensitivity_high_v) for g in part.groups))
    groups = " and ".join(_group(group) for group in part.groups)
    processor = "; with a processor inside" if part.processor else ""
    sensitivity = " and ".join(_span(*s) for s in spans)
    knobs = "" if part.gain_knobs is GainKnobs.A_PAIR or part.channels < 2 else f"; gain knobs: {part.gain_knobs.value}"
    return f"class {part.amplifier_class.value}, {groups}; sensitivity {sensitivity}{knobs}{processor}"


def _powered_sub(part: PoweredSubwoofer) -> str:
    inputs = []
    if part.line_high_v is not None:
        inputs.append(f"line {_span(part.line_low_v, part.line_high_v)}")
    if part.speaker_level_high_v is not None:
        inputs.append(
            f"speaker level {_span(part.speaker_level_low_v, part.speaker_level_high_v)} {part.input_stated_as.value}"
        )
    more = [
        f"down to {amount(part.plays_down_to_hz, 'hz')}" if part.plays_down_to_hz else "",
        "hears the music itself" if part.senses_audio else "",
        "bass knob" if part.bass_knob else "",
    ]
    draws = f"draws {amount(part.supply_current_a, 'a')}, fuse {amount(part.fuse_a, 'a')}"
    return "; ".join([f"{amount(part.power_rms_w, 'w')} RMS, {draws}", *inputs, *(m for m in more if m)])


def _converter(part: Converter) -> str:
    pairs = f"{count(part.input_pairs, 'input pair')}, {count(part.output_pairs, 'line pair')} out"
    gain = "gain as full output over full input"
    if part.gain_low_db is not None and part.gain_high_db is not None:
        gain = f"gain {amount(part.gain_low_db, 'db')} to {amount(part.gain_high_db, 'db')}"
    takes = f"takes {amount(part.input_limit_v, 'v')} {part.input_stated_as.value}"
    passive = "" if part.active else "passive; "
    return f"{passive}{pairs}; {takes}; {gain}; {amount(part.output_limit_v, 'v')} clean"


def _radio(part: HeadUnit) -> str:
    size = " × ".join(trimmed(mm) for mm in (part.width_mm, part.height_mm, part.depth_mm))
    lines = f"; {count(part.line_pairs, 'RCA pair')} of {trimmed(part.line_v)} V" if part.line_v else ""
    return f"{size} mm; {amount(part.power_w, 'w')} a channel{lines}"


def _reel(part: CableReel) -> str:
    size, material = part.wire_size.replace("mm2", "mm²"), part.material.replace("_", " ")
    return ", ".join(word for word in (f"{size} {material}", amount(part.on_reel_m, "m"), part.colour) if word)


def part_words(part: PartBase) -> str:
    """What a part's papers say, in a line.

    Parameters:
        part: the part.

    Returns:
        its data with units, as an installer would say them.
    """
    match part:
        case Amplifier():
            return _amplifier(part)
        case Subwoofer():
            coils = " + ".join(f"{trimmed(c.impedance_ohm)} Ω" for c in part.coils)
            size = f"{part.size}; " if part.size else ""
            return f"{size}coils {coils}; {amount(part.power_rms_w, 'w')} RMS"
        case PoweredSubwoofer():
            return _powered_sub(part)
        case CableReel():
            return _reel(part)
        case LineCable():
            return f"screened pair with plugs, {amount(part.length_m, 'm')}, {count(part.pieces, 'piece')}"
        case FuseLink():
            return f"{part.family}, {trimmed(part.rating_a)} A, {count(part.pieces, 'piece')}"
        case DistributionBlock():
            fused = ", fused" if part.fused else ""
            inward, outward = trimmed(part.in_area_max_mm2), trimmed(part.out_area_max_mm2)
            return f"{part.ways} ways{fused}; in up to {inward} mm², out up to {outward} mm²"
        case Box():
            tuned = f", tuned to {amount(part.tuning_hz, 'hz')}" if part.tuning_hz else ""
            return f"{part.box_type}, {amount(part.net_volume_l, 'l')}{tuned}, {amount(part.mass_kg, 'kg')}"
        case Converter():
            return _converter(part)
        case FuseHolder():
            return f"{part.family}, wire up to {trimmed(part.terminal_area_max_mm2)} mm²"
        case Driver():
            power = f"{trimmed(part.impedance_ohm)} Ω, {amount(part.power_rms_w, 'w')} RMS"
            return (
                f"{part.role}, {power}; depth {trimmed(part.mounting_depth_mm)} mm,"
                f" cut-out {trimmed(part.cut_out_mm)} mm"
            )
        case ChargingRelay():
            return f"{part.how}, {amount(part.current_a, 'a')}, wire up to {trimmed(part.terminal_area_max_mm2)} mm²"
        case CrossoverNet():
            pad = f", {amount(part.tweeter_pad_db, 'db')} off the tweeter" if part.tweeter_pad_db else ""
            made = f"for {trimmed(part.made_for_ohm)} Ω, {amount(part.rated_w, 'w')} RMS"
            return f"{amount(part.crossover_hz, 'hz')}, {made}{pad}"
        case LoadResistor():
            return f"{trimmed(part.resistance_ohm)} Ω, {amount(part.rated_w, 'w')}"
        case SpeakerPad():
            off, made = amount(part.takes_off_db, "db"), trimmed(part.made_for_ohm)
            return f"{off} off a {made} Ω speaker, {amount(part.rated_w, 'w')}"
        case MountingRing():
            hole = f"opening {trimmed(part.opening_mm)} mm, outside {trimmed(part.outer_mm)} mm"
            return f"{trimmed(part.thickness_mm)} mm thick, {hole}"
        case SwitchingRelay():
            coil = f"coil for {trimmed(part.coil_v)} V, {amount(part.coil_a, 'a')}"
            return f"{coil}, contact {amount(part.contact_a, 'a')}"
        case LineIsolator():
            return f"up to {amount(part.limit_v, 'v')}, down to {amount(part.low_hz, 'hz')}"
        case StiffeningCapacitor():
            own = f"{amount(part.own_ohm, 'ohm')} of its own"
            return f"{amount(part.capacitance_f, 'f')}, {amount(part.rated_v, 'v')}, {own}"
        case SeriesCapacitor():
            return f"{amount(part.capacitance_uf, 'uf')}, {amount(part.rated_v, 'v')}"
        case SeriesCoil():
            own = f"{amount(part.dc_resistance_ohm, 'ohm')} of its own"
            return f"{amount(part.inductance_mh, 'mh')}, {own}, {amount(part.rated_w, 'w')} RMS"
        case VoltageConverter():
            span = f"{trimmed(part.in_low_v)} to {trimmed(part.in_high_v)} V in"
            return f"{span}, {amount(part.out_v, 'v')} and {amount(part.current_a, 'a')} out"
        case HeadUnit():
            return _radio(part)
        case Accessory():
            draws = f", draws {amount(part.current_a, 'a')}" if part.current_a else ""
            switches = f", switched output {amount(part.remote_out_limit_a, 'a')}" if part.remote_out_limit_a else ""
            return f"{part.category}{draws}{switches}"
    return listed([part.maker]) if part.maker else ""
