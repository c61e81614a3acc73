"""A converter's gain: one for everything it feeds, as high as all of it takes cleanly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Converter
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed
from ohmack.core.physics.gain_settings import GainSetting, gain_settings
from ohmack.core.physics.signal_chain import (
    GainPlan,
    db_from_voltage_ratio,
    plan_converter_gain,
    rms_from,
    voltage_ratio_from_db,
)
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.loading import level_term, share_of
from ohmack.core.signal.sensitivity_span import span_terms
from ohmack.core.signal.ways import Way

PLANNED_GAIN = Reading(
    "Converter gain", "db", "highest clean level everything behind it takes", lambda plan: plan.gain_db, PRACTICE
)

OUTPUT = Formula(
    "Converter output at the top volume", "v", "V_in × 10^(gain/20)", lambda v, g: v * voltage_ratio_from_db(g), PHYSICS
)
FULL_GAIN = Formula(
    "Gain by its papers",
    "db",
    "20 log₁₀(full output / full input), where they give volts and no gain",
    lambda most_in, stated, most_out: db_from_voltage_ratio(most_out / rms_from(most_in, stated)),
    PHYSICS,
)


KEPT_GAIN = Formula("Converter gain", "db", "as it is kept", float)
KEPT = "where it is kept"
GainSpan = tuple[float, float]
Limits = list[tuple[int, dict[str, Figure]]]  # of each output of an amplifier that plays a way, with its channel


@record
class Fed:
    """One way behind a converter: its outputs' limits, and what its input takes off the line."""

    way: Way
    limits: Limits
    loading: Figure | None


@record
class Behind:
    """What leaves a converter, how its gain was found, and the other settings it could have, the best first."""

    plan: GainPlan | None
    figures: dict[str, Figure]
    settings: tuple[GainSetting, ...]


def _gain_span(book: Book, converter: Converter) -> list[Term]:
    """The lowest and the highest gain as inputs; one of fixed gain, or of which the papers give volts, has what full
    output over full input comes to.
    """
    low, high = converter.gain_low_db, converter.gain_high_db
    derived: Term | None = None
    if low is None or high is None:
        derived = book.figure(
            f"{converter.id}/full_gain_db",
            FULL_GAIN,
            book.part(converter, lambda it: it.input_limit_v, "input takes up to", "v"),
            fixed("stated as", converter.input_stated_as.value, path=at(converter, lambda it: it.input_stated_as)),
            book.part(converter, lambda it: it.output_limit_v, "clean output", "v"),
        ).term
    return [
        derived if low is None and derived else book.part(converter, lambda it: it.gain_low_db, "lowest gain", "db"),
        derived if high is None and derived else book.part(converter, lambda it: it.gain_high_db, "highest gain", "db"),
    ]


def through_converter(book: Book, converter: Converter, source: Figure, feeds: Sequence[Fed]) -> Behind:
    """What leaves a converter with the one gain it has: as much as every output behind it takes cleanly."""
    terms = [*_gain_span(book, converter), book.part(converter, lambda it: it.output_limit_v, "clean output", "v")]
    low_db, high_db, clean_v = (term.value for term in terms)
    spans, blocked = [], False
    for one in feeds:
        way, more = one.way, f" of {one.way.amplifier.name}" if len(feeds) > 1 else ""
        for channel, figures in one.limits or [(1, {})]:
            span = span_terms(book, way.amplifier, channel, more)
            terms += [term for term in span if term not in terms]
            ratio = _sensitivity_ratio(figures)
            if ratio is None or None in (span[0].value, span[1].value):
                blocked = True
                continue
            scale = ratio * voltage_ratio_from_db(-book.design.policy.overlap_db) * share_of(one.way, one.loading)
            spans.append((span[0].value / scale, span[1].value / scale))
    settings = _settings(book, converter, source, feeds)
    if converter.gain_kept_db is not None:
        return _kept(book, converter, source, settings)
    plan: GainPlan | None = None
    if source.value is not None and not blocked:
        most_v, least_v = max(span[0] for span in spans), min(span[1] for span in spans)
        plan = plan_converter_gain(source.value, low_db, high_db, clean_v, min(most_v, least_v), least_v)
    reading = replace(PLANNED_GAIN, text=f"{PLANNED_GAIN.text}: {plan.binding} decides") if plan else PLANNED_GAIN
    gain = book.reading(
        f"{converter.id}/gain_db", reading, plan, source, *terms,
        book.policy(lambda it: it.overlap_db, "music past full power", "db"),
        *(figure for one in feeds for _, f in one.limits for figure in (f["clip"], f["full"])),
        *(one.loading for one in feeds if one.loading is not None),
        *(pair for one in feeds if (pair := level_term(one.way)) is not None),
    )  # fmt: skip
    output = book.figure(f"{converter.id}/output_v", OUTPUT, source, gain)
    return Behind(plan, {"source": source, "gain": gain, "output": output}, settings)


def _kept(book: Book, converter: Converter, source: Figure, settings: tuple[GainSetting, ...]) -> Behind:
    """What leaves a converter whose gain somebody keeps where it is."""
    held = book.part(converter, lambda it: it.gain_kept_db, "kept at", "db")
    gain = book.figure(f"{converter.id}/gain_db", KEPT_GAIN, held)
    output = book.figure(f"{converter.id}/output_v", OUTPUT, source, gain)
    plan = None if output.value is None else GainPlan(held.value, output.value, KEPT)
    return Behind(plan, {"source": source, "gain": gain, "output": output}, settings)


def _settings(book: Book, converter: Converter, source: Figure, feeds: Sequence[Fed]) -> tuple[GainSetting, ...]:
    """The settings of its gain compared; none where a level is not known or its range makes no sense."""
    low_db, high_db = gain_span_of(converter)
    if source.value is None or low_db > high_db:
        return ()
    spans, noises = [], []
    for one in feeds:
        way = one.way
        for channel, figures in one.limits or [(1, {})]:
            ratio = _sensitivity_ratio(figures)
            most_v, least_v = way.span_of(channel)
            if ratio is None or not least_v:
                return ()
            scale = ratio * voltage_ratio_from_db(-book.design.policy.overlap_db) * share_of(one.way, one.loading)
            spans.append((most_v / scale, least_v / scale))
            noises.append(way.amplifier.noise_dbv if isinstance(way.amplifier, Amplifier) else None)
    return gain_settings(source.value, low_db, high_db, converter.output_limit_v, spans, converter.noise_dbv, noises)


def gain_span_of(converter: Converter) -> GainSpan:
    """(lowest, highest) gain [db], by its papers or by what full output over full input comes to."""
    full_db = db_from_voltage_ratio(
        converter.output_limit_v / rms_from(converter.input_limit_v, converter.input_stated_as)
    )
    low, high = converter.gain_low_db, converter.gain_high_db
    return (full_db if low is None else low), (full_db if high is None else high)


def _sensitivity_ratio(figures: dict[str, Figure]) -> float | None:
    if not figures:
        return 1.0
    clip, full = figures["clip"].value, figures["full"].value
    return clip / full if clip and full else None
