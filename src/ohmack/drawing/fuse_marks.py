"""Fuses on the car by number, and the fuses beside each other as one looks for them."""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup

from ohmack.core.handover.fuse_map import FuseSpot
from ohmack.drawing.picture import Picture, box_at
from ohmack.drawing.svg import el, group, label

RADIUS = 11.0
NEAR = tuple((dx, dy) for r in (0, 28, 46, 64) for dx, dy in ((0, -r), (r, 0), (-r, 0), (0, r), (r, -r), (-r, r)))


def _edge(picture: Picture, here: tuple[float, float], there: tuple[float, float]) -> tuple[float, float]:
    """Where the line to a number begins: at the edge of the thing its place lies in, so that it crosses no word."""
    (x, y), (tx, ty) = here, there
    for name, box in picture.things.items():
        if name.startswith("run-") or not (box.left <= x <= box.right and box.top <= y <= box.bottom):
            continue
        shares = [1.0]
        for far, ahead, back in ((tx - x, box.right - x, box.left - x), (ty - y, box.bottom - y, box.top - y)):
            if abs(far) > LITTLE_PX:
                shares.append((ahead if far > 0 else back) / far)
        share = min(shares)
        return x + share * (tx - x), y + share * (ty - y)
    return here


LITTLE_PX = 0.5


def draw_fuse_marks(picture: Picture, spots: Sequence[FuseSpot]) -> Markup:
    """Every fuse that has a place, as its number beside it with a line to it.

    Parameters:
        picture: the car, drawn already.
        spots: the fuses.

    Returns:
        a group over the car.
    """
    pieces = []
    for spot in spots:
        if spot.point is None:
            continue
        x, y = picture.frame.at(*spot.point)
        places = [(x + dx, y + dy) for dx, dy in NEAR]
        mx, my = min(places, key=lambda at: (picture.labels.cost(box_at(at[0], at[1], 25, 25)), places.index(at)))
        picture.labels.block(box_at(mx, my, 25, 25))
        x, y = _edge(picture, (x, y), (mx, my))
        title = f"Fuse {spot.number}, {spot.rating}: {spot.where}; without it {spot.stops} stops"
        pieces.append(
            group(
                [
                    el("title", title),
                    el("path", d=f"M{x:.1f} {y:.1f}L{mx:.1f} {my:.1f}", class_="fuse-leader"),
                    el("circle", cx=x, cy=y, r=2.6, class_="fuse-dot"),
                    el("circle", cx=mx, cy=my, r=RADIUS, class_="fuse-mark"),
                    label(mx, my + 4.6, str(spot.number), "lab", "middle", "on-fuse"),
                ],
                class_="fuse-at",
            )
        )
    return group(pieces, class_="fuse-marks")
