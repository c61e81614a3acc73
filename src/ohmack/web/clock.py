"""The only place that asks what day it is."""

from __future__ import annotations

from datetime import date


def today() -> str:
    """Today as ISO text."""
    return date.today().isoformat()
