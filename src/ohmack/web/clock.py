"""The only place that asks what day and what time it is."""

from __future__ import annotations

from datetime import date, datetime


def today() -> str:
    """Today as ISO text."""
    return date.today().isoformat()


def now() -> datetime:
    """The time of day here, without a zone."""
    return datetime.now().replace(second=0, microsecond=0)
