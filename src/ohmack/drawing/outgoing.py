"""What comes out of the car, as it lies there still: cables and parts in broken lines, crossed through."""

from __future__ import annotations

from collections.abc import Iterator

from markupsafe import Markup

from ohmack.core.document.handles import at
from ohmack.core.document.outgoing import Goes, Outgoing
from ohmack.drawing.picture import Picture, box_at, thing
from ohmack.drawing.svg import el, path

SIZE_PX = 18.0  # of a part that comes out
AROUND = [(1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, -1)]
SPOTS = [(0, 0), *((far * right, far * down) for far in (22, 44, 66, 88) for right, down in AROUND)]


def draw_outgoing_cables(picture: Picture) -> Iterator[Markup]:
    """The ways of cables that come out."""
    for one in picture.evaluation.results.design.coming_out:
        if one.goes is Goes.CABLE and len(one.way) > 1:
            points = [picture.frame.at(*spot.point) for spot in one.way]
            yield el("path", el("title", _said(one)), d=path(points), class_="stays" if one.stays else "goes")


def draw_outgoing_parts(picture: Picture) -> Iterator[Markup]:
    """Parts that come out, each where it is, or beside what is drawn there."""
    for one in picture.evaluation.results.design.coming_out:
        if one.goes is not Goes.PART or one.position is None:
            continue
        x, y = picture.frame.at(*one.position.point)
        spots = [box_at(x + right, y + down, SIZE_PX, SIZE_PX) for right, down in SPOTS]
        box = next((spot for spot in spots if not any(map(spot.overlap, picture.things.values()))), spots[0])
        cross = f"M{box.left + 4:.1f} {box.top + 4:.1f}l10 10m0 -10l-10 10"
        shapes = [el("rect", x=box.left, y=box.top, width=SIZE_PX, height=SIZE_PX, rx=3, class_="goes"),
                  el("path", d=cross, class_="goes-mark")]  # fmt: skip
        yield thing(picture, f"out-{one.id}", at(one), _said(one), box, shapes, False)


def _said(one: Outgoing) -> str:
    return f"{one.called}: {'stays, its ends insulated' if one.stays else 'comes out'}"
