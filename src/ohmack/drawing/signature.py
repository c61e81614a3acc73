"""A signature as it was drawn."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.handover import Signature
from ohmack.drawing.svg import el

WIDE, HIGH = 1000, 300  # thousandths of the field's width


def draw_signature(signature: Signature) -> Markup:
    """The lines of the pen; nothing where the name was only typed."""
    if not signature.drawn:
        return Markup("")
    lines = []
    for stroke in signature.drawn:
        points = stroke.points if len(stroke.points) > 1 else (*stroke.points, stroke.points[0])
        lines.append("M" + "L".join(f"{x} {y}" for x, y in points))
    title = f"Signature of {signature.by}"
    return el("svg", el("title", title), el("path", d="".join(lines), class_="pen"), viewBox=f"0 0 {WIDE} {HIGH}",
              class_="drawing signature", role="img", aria_label=title)  # fmt: skip
