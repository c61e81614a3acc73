"""The token every form carries, put into the templates' forms when they are compiled: none can be forgotten."""

from __future__ import annotations

import re
from contextvars import ContextVar

from jinja2.ext import Extension

FIELD = "form_token"
_current: ContextVar[str] = ContextVar("form token of the request", default="")
_FORM = re.compile(r"<form\b(?:\{%.*?%\}|\{\{.*?\}\}|[^>])*>", re.DOTALL)
_HIDDEN = f'<input type="hidden" name="{FIELD}" value="{{{{ form_token() }}}}">'


def set_form_token(token: str) -> None:
    """From here to the end of the request this is the token its forms carry."""
    _current.set(token)


def form_token() -> str:
    """The token of the request under way."""
    return _current.get()


class FormToken(Extension):
    """Puts the hidden field behind the start of every form that is posted."""

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:
        """The source with its tokens."""
        return _FORM.sub(lambda m: m[0] + _HIDDEN if 'method="post"' in m[0] else m[0], source)
