"""What an alternator gives at idle: as known, else the usual share of its rating."""

from __future__ import annotations

from ohmack.core.figures.figure import Book, Term, reference
from ohmack.core.reference import table


def rated(book: Book) -> Term:
    """Its rating."""
    return book.fact(book.design.vehicle.supply, lambda it: it.alternator_rating_a, "alternator rating", "a")


def idle_share(book: Book) -> Term:
    """The share of its rating it gives at idle: the known output's where both are known."""
    supply, row = book.design.vehicle.supply, table("supply", "alternator_idle")
    known, rating = supply.alternator_idle_a, supply.alternator_rating_a.value
    if known.value is None or not rating:
        return reference("share at idle", float(row["share"]), "", row["source"])
    fact = book.fact(supply, lambda it: it.alternator_idle_a, "alternator at idle", "a")
    return Term("share at idle, as known", known.value / rating, "", fact.basis, None, fact.source, fact.path)


def at_idle(book: Book) -> Term:
    """What it gives at idle."""
    supply, rating = book.design.vehicle.supply, rated(book)
    if supply.alternator_idle_a.value is not None:
        return book.fact(supply, lambda it: it.alternator_idle_a, "alternator at idle", "a")
    share = idle_share(book)
    words = f"alternator at idle, {share.value:g} of its rating"
    row = table("supply", "alternator_idle")
    return reference(words, None if rating.value is None else rating.value * share.value, "a", row["source"])
