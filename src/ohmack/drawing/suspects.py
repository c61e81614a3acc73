"""What may be wrong, where it would be on the car, as large as its odds; and the probes of the next check."""

from __future__ import annotations

from math import sqrt

from markupsafe import Markup

from ohmack.core.prove.checks import Check
from ohmack.core.prove.search import Search
from ohmack.core.wording import percent
from ohmack.drawing.picture import Picture
from ohmack.drawing.probe_marks import draw_probes
from ohmack.drawing.svg import el, group

LARGEST_PX, LEAST = 30.0, 0.02  # the radius of what is certain; odds that are drawn


def draw_suspects(picture: Picture, search: Search, now: Check | None) -> Markup:
    """A disc where each likely fault would be, its area its odds; the probes of the check over them."""
    at: dict[tuple[float, float], tuple[float, list[str]]] = {}
    for suspect in search.suspects if search.begun and not search.blind else ():
        for fault in suspect.faults:
            if suspect.odds >= LEAST and fault.point is not None:
                odds, words = at.get(fault.point, (0.0, []))
                at[fault.point] = (odds + suspect.odds, [*words, f"{fault.words}, {percent(suspect.odds)} %"])
    pieces = []
    for (x_m, y_m), (odds, words) in at.items():
        x, y = picture.frame.at(x_m, y_m)
        radius = LARGEST_PX * sqrt(min(odds, 1.0))
        pieces.append(el("circle", el("title", "; ".join(words)), cx=x, cy=y, r=radius, class_="suspect"))
    if now is not None:
        pieces.append(draw_probes(picture.frame, now))
    return group(pieces, class_="suspects")
