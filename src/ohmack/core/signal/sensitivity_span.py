"""The two ends of a sensitivity control, as inputs of figures."""

from __future__ import annotations

from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.figures.figure import Book, Term
from ohmack.core.signal.ways import Played


def span_terms(book: Book, part: Played, channel: int, more: str) -> tuple[Term, Term]:
    """(most, least) sensitive setting of the line input of a channel, as inputs of figures."""
    low, high = f"most sensitive{more}", f"least sensitive{more}"
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
