"""What the input a line goes into takes off its level."""

from __future__ import annotations

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink
from ohmack.core.document.parts import Converter, HeadUnit
from ohmack.core.figures.figure import Book, Figure, Formula, Term, fixed
from ohmack.core.physics.line_loading import loading_db
from ohmack.core.physics.signal_chain import voltage_ratio_from_db
from ohmack.core.reference import PHYSICS
from ohmack.core.signal.ways import Way, inputs_fed

INPUTS = Formula(
    "All inputs on its pair, in parallel", "ohm", "1 / Σ 1/Z_in",
    lambda *ohms: 1 / sum(1 / ohm for ohm in ohms), PHYSICS,
)  # fmt: skip
LOADING = Formula("The input takes off", "db", "20 log₁₀(Z_in / (Z_in + Z_out))", loading_db, PHYSICS)
ARRIVING = Formula(
    "At the amplifier's input", "v", "V_out × 10^((level of the pair + what the input takes off)/20)",
    lambda v, *levels: v * voltage_ratio_from_db(sum(levels)), PHYSICS,
)  # fmt: skip


def output_ohm_term(book: Book, way: Way) -> Term | None:
    """The output impedance of what a line begins at; None where it is not on file."""
    source = way.converter or way.radio
    if isinstance(source, Converter) and source.output_ohm is not None:
        return book.part(source, lambda it: it.output_ohm, "output impedance", "ohm")
    if isinstance(source, HeadUnit) and source.line_output_ohm is not None:
        return book.part(source, lambda it: it.line_output_ohm, "line output impedance", "ohm")
    return None


def loading_of(book: Book, way: Way) -> Figure | None:
    """What the inputs on the pair of a way take off its line, all of known impedance that Y leads split it to; None
    where its own, or the source's, is not on file.
    """
    line, gives, own_part = way.line, output_ohm_term(book, way), way.amplifier
    if line is None or gives is None or not isinstance(own_part, Amplifier) or own_part.input_ohm is None:
        return None
    takes: list[Term] = []
    for own in (k for k in book.design.links_of(LineLink) if (k.from_id, k.pair) == (line.from_id, line.pair)):
        part = book.design.part(own.to_id)
        if not isinstance(part, Amplifier) or part.input_ohm is None:
            continue
        term = book.part(part, lambda it: it.input_ohm, f"{part.name}, line input impedance", "ohm")
        takes += [term] * inputs_fed(book.design, own)
    if len(takes) == 1:
        return book.figure(f"{line.id}/loading_db", LOADING, gives, takes[0])
    inputs = book.figure(f"{line.id}/inputs_ohm", INPUTS, *takes)
    return book.figure(f"{line.id}/loading_db", LOADING, gives, inputs)


def left_by(loading: Figure | None) -> float:
    """The share of a line's voltage an input leaves; all of it where an impedance is not on file."""
    return 1.0 if loading is None or loading.value is None else voltage_ratio_from_db(loading.value)


def share_of(way: Way, loading: Figure | None) -> float:
    """The share of what leaves a source that arrives: the level of the pair, and what the input leaves."""
    return left_by(loading) * voltage_ratio_from_db(way.line.level_db if way.line is not None else 0.0)


def level_term(way: Way) -> Term | None:
    """The level a line's pair is set to in its source, as an input of figures; None at 0 dB."""
    line = way.line
    if line is None or not line.level_db:
        return None
    return fixed("level of the pair", line.level_db, "db", at(line, lambda it: it.level_db))


def arriving(book: Book, way: Way, output: Figure, loading: Figure | None) -> Figure:
    """What arrives at the amplifier: what leaves, less what its input takes off."""
    line = way.line
    if line is None or (loading is None and not line.level_db):
        return output
    levels: list[Term | Figure] = [] if loading is None else [loading]
    pair = level_term(way)
    return book.figure(f"{line.id}/arrives_v", ARRIVING, output, *levels, *([pair] if pair is not None else []))
