"""An address as a square code a phone reads."""

from __future__ import annotations

import io

import segno
from markupsafe import Markup


def square_code(address: str) -> Markup:
    """The code as an SVG that stands in a page.

    Source: ISO/IEC 18004, by segno.
    """
    out = io.BytesIO()
    made = segno.make(address, error="m", micro=False)
    plain = {"xmldecl": False, "svgns": False, "omitsize": True, "lineclass": None, "border": 2}
    made.save(out, kind="svg", svgclass="drawing square-code", **plain)
    return Markup(out.getvalue().decode())
