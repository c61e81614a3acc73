"""Wires as they look: insulation in the base colour, a lengthwise stripe in the tracer colour, a dark outline."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.harness import Colour
from ohmack.core.harness.wire_colours import colour_words
from ohmack.drawing.svg import el, group


def tone(colour: Colour | None) -> str:
    """The class of a wire colour; an unknown one is drawn as bare paper."""
    return f"w-{colour.value.replace(' ', '-')}" if colour is not None else "w-unknown"


def wire_strokes(d: str, base: Colour | None, tracer: Colour | None, width: float = 9.0) -> list[Markup]:
    """Outline, insulation and stripe along a path."""
    strokes = [
        el("path", d=d, class_="w-out", stroke_width=width + 3),
        el("path", d=d, class_=tone(base), stroke_width=width),
    ]
    if tracer is not None and tracer is not base:
        strokes.append(el("path", d=d, class_=f"{tone(tracer)} stripe", stroke_width=width * 0.34))
    return strokes


def swatch(base: Colour | None, tracer: Colour | None) -> Markup:
    """A short piece of wire for a table cell."""
    if base is None:
        return Markup("")
    return el(
        "svg",
        el("title", colour_words(base, tracer)),
        group(wire_strokes("M3 7H41", base, tracer, 8.0)),
        viewBox="0 0 44 14",
        class_="wire-swatch",
        role="img",
        aria_label=colour_words(base, tracer),
    )


def wire_end(x: float, y: float, radius: float, base: Colour | None, tracer: Colour | None) -> list[Markup]:
    """A wire seen from its end, in the cavity: insulation with its stripe as a wedge, copper in the middle."""
    pieces = [el("circle", cx=x, cy=y, r=radius, class_=f"end-out fill-{tone(base)[2:]}")]
    if tracer is not None and tracer is not base:
        half = 0.42
        dx, dy = radius * 0.97 * 0.912, radius * 0.97 * half
        d = (
            f"M{x:.1f} {y:.1f}L{x + dx:.1f} {y - dy:.1f}A{radius * 0.97:.1f} {radius * 0.97:.1f} 0 0 1 {x + dx:.1f}"
            f" {y + dy:.1f}Z"
        )
        pieces.append(el("path", d=d, class_=f"fill-{tone(tracer)[2:]}"))
        d = (
            f"M{x:.1f} {y:.1f}L{x - dx:.1f} {y - dy:.1f}A{radius * 0.97:.1f} {radius * 0.97:.1f} 0 0 0 {x - dx:.1f}"
            f" {y + dy:.1f}Z"
        )
        pieces.append(el("path", d=d, class_=f"fill-{tone(tracer)[2:]}"))
    pieces.append(el("circle", cx=x, cy=y, r=radius * 0.42, class_="end-copper"))
    return pieces
