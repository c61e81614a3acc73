"""The bay plan as iCalendar: an event a stretch of work, of floating local time, under an id that stays its own."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta

from ohmack.core.build.bay import Piece, Visit

PRODUCT = "-//Ohmack//Bay plan//EN"


def moment(day: int, minute: int) -> datetime:
    """A day's ordinal and a minute of it as a time."""
    return datetime.combine(date.fromordinal(day), datetime.min.time()) + timedelta(minutes=minute)


def write_calendar(rows: Sequence[tuple[Visit, Sequence[Piece]]], written: datetime) -> bytes:
    """Visits as a calendar.

    Parameters:
        rows: every visit with its stretches, in order.
        written: when this was.

    Returns:
        the file, by RFC 5545. The n-th stretch of a job keeps its id whenever it moves, so that a calendar that reads
        the file again moves the event.
    """
    from icalendar import Calendar, Event  # only where a calendar is asked for

    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    for visit, stretches in rows:
        for n, piece in enumerate(stretches, 1):
            event = Event()
            event.add("uid", f"{visit.job}-{n}@ohmack.invalid")
            event.add("dtstamp", written.astimezone(UTC))
            event.add("dtstart", moment(piece.day, piece.from_min))
            event.add("dtend", moment(piece.day, piece.to_min))
            part = f", {n} of {len(stretches)}" if len(stretches) > 1 else ""
            event.add("summary", f"{visit.job} {visit.title}{part}")
            event.add("location", f"Bay {piece.bay}")
            if visit.due is not None:
                event.add("description", f"Ready by {date.fromordinal(visit.due).isoformat()}")
            calendar.add_component(event)
    return bytes(calendar.to_ical())
