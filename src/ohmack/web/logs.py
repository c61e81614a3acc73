"""How the application's log is written: lines for people, or one JSON object a line for machines."""

from __future__ import annotations

from typing import Any

QUIET = {"uvicorn.access": {"level": "CRITICAL"}, "fontTools": {"level": "WARNING"}, "weasyprint": {"level": "ERROR"}}


def log_settings(form: str, level: str = "INFO") -> dict[str, Any]:
    """The settings of the log; the server's own access lines are off, for they would hold addresses with tokens.

    Parameters:
        form: `text` or `json`.
        level: the least of what is written.
    """
    fields = "%(asctime)s %(levelname)s %(name)s %(message)s"
    formatters: dict[str, dict[str, Any]] = {
        "text": {"format": fields},
        "json": {"()": "pythonjsonlogger.json.JsonFormatter", "format": fields, "rename_fields": {
            "asctime": "time", "levelname": "level", "name": "logger"}},
    }  # fmt: skip
    handler = {"class": "logging.StreamHandler", "formatter": form}
    return {
        "version": 1, "disable_existing_loggers": False, "formatters": formatters, "handlers": {"out": handler},
        "loggers": QUIET | {"uvicorn": {"level": level}, "ohmack": {"level": level}},
        "root": {"handlers": ["out"], "level": "WARNING"},
    }  # fmt: skip
