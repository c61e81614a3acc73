"""A converter's gain: one for everything it feeds, as high as all of it takes cleanly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ohmack.core.document.handles import at
from ohmack.core.document.parts import Converter, PoweredSubwoofer
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed
from ohmack.core.physics.signal_chain import (
    GainPlan,
    db_from_voltage_ratio,
    plan_converter_gain,
    rms_from,
    voltage_ratio_from_db,
)
from ohmack.core.reference import PHYSICS, PRACTICE
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


Limits = list[tuple[int, dict[str, Figure]]]  # of each output of an amplifier that plays a way, with its channel


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


def _span_terms(book: Book, way: Way, channel: int, more: str) -> tuple[Term, Term]:
    """The ends of the sensitivity control a signal is set with, as inputs."""
    part, low, high = way.amplifier, f"most sensitive{more}", f"least sensitive{more}"
    if isinstance(part, PoweredSubwoofer):
        return (
            book.part(part, lambda it: it.line_low_v, low, "v"),
            book.part(part, lambda it: it.line_high_v, high, "v"),
        )
    group = part.group_of(channel)
    low_term = (
        book.part(part, lambda it: it.further_sensitivity_low_v, f"{low}, further channels", "v")
        if group.second and part.further_sensitivity_low_v is not None
        else book.part(part, lambda it: it.sensitivity_low_v, low, "v")
    )
    high_term = (
        book.part(part, lambda it: it.further_sensitivity_high_v, f"{high}, further channels", "v")
        if group.second and part.further_sensitivity_high_v is not None
        else book.part(part, lambda it: it.sensitivity_high_v, high, "v")
    )
    return low_term, high_term


def through_converter(
    book: Book, converter: Converter, source: Figure, feeds: Sequence[tuple[Way, Limits]]
) -> tuple[GainPlan | None, dict[str, Figure]]:
    """What leaves a converter with the one gain it has: as much as every output behind it takes cleanly."""
    terms = [*_gain_span(book, converter), book.part(converter, lambda it: it.output_limit_v, "clean output", "v")]
    low_db, high_db, clean_v = (term.value for term in terms)
    spans, blocked = [], False
    for way, limits in feeds:
        more = f" of {way.amplifier.name}" if len(feeds) > 1 else ""
        for channel, figures in limits or [(1, {})]:
            span = _span_terms(book, way, channel, more)
            terms += [term for term in span if term not in terms]
            ratio = _sensitivity_ratio(figures)
            if ratio is None or None in (span[0].value, span[1].value):
                blocked = True
                continue
            scale = ratio * voltage_ratio_from_db(-book.design.policy.overlap_db)  # sensitivity over what arrives
            spans.append((span[0].value / scale, span[1].value / scale))
    plan: GainPlan | None = None
    if source.value is not None and not blocked:
        most_v, least_v = max(span[0] for span in spans), min(span[1] for span in spans)
        plan = plan_converter_gain(source.value, low_db, high_db, clean_v, min(most_v, least_v), least_v)
    reading = replace(PLANNED_GAIN, text=f"{PLANNED_GAIN.text}: {plan.binding} decides") if plan else PLANNED_GAIN
    gain = book.reading(
        f"{converter.id}/gain_db", reading, plan, source, *terms,
        book.policy(lambda it: it.overlap_db, "music past full power", "db"),
        *(figure for _, limits in feeds for _, f in limits for figure in (f["clip"], f["full"])),
    )  # fmt: skip
    output = book.figure(f"{converter.id}/output_v", OUTPUT, source, gain)
    return plan, {"source": source, "gain": gain, "output": output}


def _sensitivity_ratio(figures: dict[str, Figure]) -> float | None:
    if not figures:
        return 1.0
    clip, full = figures["clip"].value, figures["full"].value
    return clip / full if clip and full else None
