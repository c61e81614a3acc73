"""Templates are written one element a line; what is sent has no such lines: half of a page would be indentation."""

from __future__ import annotations

import re

from jinja2.ext import Extension

# At the edges of these a browser ignores white space, so none is sent.
BLOCKS = (
    "html|head|body|title|meta|link|script|main|header|footer|nav|section|article|aside|div|p|ul|ol|li|dl|dt|dd|table"
    "|caption|thead|tbody|tfoot|tr|td|th|form|fieldset|legend|option|details|summary|dialog|h[1-6]|hr"
)
_AFTER = re.compile(rf"(</?(?:{BLOCKS})\b[^<>]*>)\s*\n\s*")
_BEFORE = re.compile(rf"\s*\n\s*(</?(?:{BLOCKS})\b)")
_INDENT = re.compile(r"\n[ \t]+")


class Compact(Extension):
    """Takes the white space of layout out of a template before it is compiled; lines in its errors count without it."""

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:
        """The source without indentation, and without line breaks at the edges of blocks."""
        return _INDENT.sub("\n ", _BEFORE.sub(r"\1", _AFTER.sub(r"\1", source)))
