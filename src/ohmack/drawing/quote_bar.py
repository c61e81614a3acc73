"""A quote as one bar: what of it is parts, cable, labour; the part that is a range is hatched."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.quote import CABLE, FOUND, LABOUR, PARTS, Quote
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label, text_width

HEIGHT, TOP, BAR = 96.0, 34.0, 30.0
GROUPS = ((PARTS, "parts"), (CABLE, "cable"), (FOUND, "found"), (LABOUR, "labour"))


def draw_quote(quote: Quote, currency: str) -> tuple[Markup, Markup]:
    """The bar for a screen and for a phone; empty while nothing costs anything."""
    if quote.sums.net_high <= 0:
        return Markup(""), Markup("")
    return _drawn(quote, currency, 760.0), _drawn(quote, currency, NARROW)


def _drawn(quote: Quote, currency: str, width: float) -> Markup:
    left, right = 14.0, width - 14.0
    scale = (right - left) / float(quote.sums.net_high)
    x, pieces = left, []
    for name, style in GROUPS:
        low, high = map(float, quote.sum_of(name))
        if high <= 0:
            continue
        sure, whole = low * scale, high * scale
        pieces.append(el("rect", x=x, y=TOP, width=max(0.5, sure), height=BAR, class_=f"money {style}"))
        if whole - sure > 0.5:
            pieces.append(el("rect", x=x + sure, y=TOP, width=whole - sure, height=BAR, class_=f"money range {style}"))
        words = f"{name} {low:.0f}" if high - low < 0.5 else f"{name} {low:.0f} to {high:.0f}"
        short = next((w for w in (words, f"{low:.0f}") if text_width(w, "dim") <= whole - 4), "")
        if short:
            pieces.append(label(x + whole / 2, TOP + BAR + 17, short, "dim", "middle"))
        x += whole
    total = f"{quote.sums.net_low:.0f} to {quote.sums.net_high:.0f} {currency} net"
    pieces.append(label(left, TOP - 10, total, "lab"))
    title = f"The quote: {total}"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} {HEIGHT:g}", class_="drawing quote-bar",
        role="img", aria_label=title,
    )  # fmt: skip
