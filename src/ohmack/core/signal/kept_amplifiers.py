"""A factory amplifier that stays behind a new radio, and the radio's line level against its input."""

from __future__ import annotations

from math import log10

from ohmack.core.document import Design
from ohmack.core.document.factory import Module, ModuleKind
from ohmack.core.document.interventions import comes_out, interventions_of
from ohmack.core.document.parts import HeadUnit
from ohmack.core.factory.evidence import digital_link
from ohmack.core.figures.figure import Book, Figure, Formula
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS

OVER = Formula(
    "Radio's line over the amplifier's input", "db", "20 log₁₀(V_line / V_input)",
    lambda line_v, input_v: 20 * log10(line_v / input_v), PHYSICS,
)  # fmt: skip


@record
class KeptAmplifier:
    """The new radio, the amplifier it feeds over analogue lines, and how far its line goes over the input; None where
    one of the two is not known.
    """

    unit: HeadUnit
    module: Module
    over: Figure | None


def compute_kept_amplifier(book: Book) -> KeptAmplifier | None:
    """The factory amplifier that stays behind a new radio; None where there is no such pair.

    Parameters:
        book: the book of the design.

    Returns:
        the pair with its level [db].
    """
    pair = _pair(book.design)
    if pair is None:
        return None
    unit, module = pair
    if unit.line_v is None or module.input_limit_v.value is None:
        return KeptAmplifier(unit, module, None)
    line = book.part(unit, lambda it: it.line_v, "line output", "v")
    limit = book.fact(module, lambda it: it.input_limit_v, f"{module.name}: line input takes up to", "v")
    name = f"{unit.name} over the input of {module.name}"
    return KeptAmplifier(unit, module, book.figure(f"{module.id}/line_over_db", OVER, line, limit, name=name))


def pairs_heard(design: Design) -> int:
    """How many line pairs a factory amplifier hears the radio by: front and rear apart where it plays both ends, or the
    radio fades no more.
    """
    return max(1, len({c.place.axle for c in design.vehicle.radio.channels if c.place is not None} - {""}))


def _pair(design: Design) -> tuple[HeadUnit, Module] | None:
    """The new radio and the factory amplifier it feeds over analogue lines; None where there is no such pair."""
    unit = next(design.parts_of(HeadUnit), None)
    acts = {i.id: i for i in interventions_of(design)}
    radio = acts.get(design.vehicle.radio.id)
    gone = radio is not None and comes_out(radio)
    amplifiers = (
        m
        for m in design.vehicle.modules
        if m.kind is ModuleKind.AMPLIFIER and m.fitted.value is not False and m.id not in acts
    )
    module = next(amplifiers, None)
    if unit is None or module is None or not gone or digital_link(design):
        return None
    return unit, module
