"""Who the request under way comes from, for the pages that say so."""

from __future__ import annotations

from contextvars import ContextVar

from ohmack.store.sessions import Visitor

_current: ContextVar[Visitor | None] = ContextVar("who the request comes from", default=None)


def set_visitor(visitor: Visitor | None) -> None:
    """From here to the end of the request this is who is signed in."""
    _current.set(visitor)


def visitor_here() -> Visitor | None:
    """Who is signed in; None for nobody."""
    return _current.get()
