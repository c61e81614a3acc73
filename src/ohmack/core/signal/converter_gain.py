"""A converter's gain: one for everything it feeds, as high as all of it takes cleanly."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Converter
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed
from ohmack.core.physics.gain_settings import GainSetting, gain_settings
from ohmack.core.physics.signal_chain import db_from_voltage_ratio, rms_from, voltage_ratio_from_db
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.loading import level_term, share_of
from ohmack.core.signal.sensitivity_span import span_terms
from ohmack.core.signal.ways import Way

BEST_GAIN = Reading(
    "Converter gain",
    "db",
    "highest clean level everything behind it takes",
    lambda best: best.gain_db,
    PRACTICE,
    tells=lambda best: f"{best.stands_at} decides",
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
Limits = list[tuple[int, dict[str, Figure]]]  # of each output of an amplifier that plays a way, with its channel


@record
class Fed:
    """One way behind a converter: its outputs' limits, and what its input takes off the line."""

    way: Way
    limits: Limits
    loading: Figure | None


@record
class Behind:
    """What leaves a source: its figures; behind a converter what decides its gain, the span of that, and every setting
    it could have, the best first.
    """

    figures: dict[str, Figure]
    decides: str = ""
    span_db: tuple[float, float] | None = None
    settings: tuple[GainSetting, ...] = ()


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
    """What leaves a converter with the one gain it has: as much as every output behind it takes cleanly, or where
    somebody keeps it.
    """
    terms = [*_gain_span(book, converter), book.part(converter, lambda it: it.output_limit_v, "clean output", "v")]
    low_db, high_db, clean_v = (term.value for term in terms)
    spans, noises, blocked = [], [], source.value is None
    for one in feeds:
        part, more = one.way.amplifier, f" of {one.way.amplifier.name}" if len(feeds) > 1 else ""
        for channel, figures in one.limits or [(1, {})]:
            span = span_terms(book, part, channel, more)
            terms += [term for term in span if term not in terms]
            ratio = _sensitivity_ratio(figures)
            if ratio is None or None in (span[0].value, span[1].value):
                blocked = True
                continue
            scale = ratio * voltage_ratio_from_db(-book.design.policy.overlap_db) * share_of(one.way, one.loading)
            spans.append((span[0].value / scale, span[1].value / scale))
            noises.append(part.noise_dbv if isinstance(part, Amplifier) else None)
    settings: tuple[GainSetting, ...] = ()
    if not blocked:
        settings = gain_settings(source.value, low_db, high_db, clean_v, spans, converter.noise_dbv, noises)
    if converter.gain_kept_db is not None:
        held = book.part(converter, lambda it: it.gain_kept_db, "kept at", "db")
        gain, decides = book.figure(f"{converter.id}/gain_db", KEPT_GAIN, held), KEPT
    else:
        best = settings[0] if settings else None
        decides = best.stands_at if best else ""
        gain = book.reading(
            f"{converter.id}/gain_db", BEST_GAIN, best, source, *terms,
            book.policy(lambda it: it.overlap_db, "music past full power", "db"),
            *(figure for one in feeds for _, f in one.limits for figure in (f["clip"], f["full"])),
            *(one.loading for one in feeds if one.loading is not None),
            *(pair for one in feeds if (pair := level_term(one.way)) is not None),
        )  # fmt: skip
    output = book.figure(f"{converter.id}/output_v", OUTPUT, source, gain)
    figures = {"source": source, "gain": gain, "output": output}
    return Behind(figures, decides, (low_db, high_db), settings)


def _sensitivity_ratio(figures: dict[str, Figure]) -> float | None:
    if not figures:
        return 1.0
    clip, full = figures["clip"].value, figures["full"].value
    return clip / full if clip and full else None
