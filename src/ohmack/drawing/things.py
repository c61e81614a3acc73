"""The things on the car as they are drawn: batteries, radio, parts, ground points, passages, feeds, speakers."""

from __future__ import annotations

from collections.abc import Iterator

from markupsafe import Markup

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.factory import Radio
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import (
    Accessory,
    Converter,
    DistributionBlock,
    Driver,
    FuseHolder,
    Part,
    PoweredSubwoofer,
    Subwoofer,
    VoltageConverter,
)
from ohmack.core.fit.far_ends import own_lead
from ohmack.core.wording import digits, trimmed
from ohmack.drawing.labels import Box as LabelBox
from ohmack.drawing.picture import Layer, Picture, box_at, thing
from ohmack.drawing.svg import el, label, path, text_width


def draw_batteries(picture: Picture) -> Iterator[Markup]:
    for n, battery in enumerate(picture.evaluation.results.design.vehicle.supply.batteries):
        if n:
            picture.titles.append((battery.id, battery.name, "dim"))
        x, y = picture.frame.at(*battery.position.point)
        width, height = (36.0, 28.0) if picture.frame.upright else (44.0, 36.0)
        box = box_at(x, y, width, height)
        shapes = [
            el("path", d=f"M{box.left + 6:.1f} {box.top:.1f}v-5h9v5M{box.right - 15:.1f} {box.top:.1f}v-5h9v5"),
            el("rect", x=box.left, y=box.top, width=width, height=height, rx=3),
            label(x - width / 4, y + 5, "+", "lab", "middle"), label(x + width / 4, y + 5, "−", "lab", "middle"),
        ]  # fmt: skip
        yield thing(picture, battery.id, at(battery), battery.name, box, shapes, True)


def draw_radio(picture: Picture) -> Markup:
    radio = picture.evaluation.results.design.vehicle.radio
    x, y = picture.frame.at(*radio.position.point)
    width, height = picture.frame.lying(20, 62)
    box = box_at(x, y, width, height)
    knobs = [picture.frame.turned(2, down) for down in (-21, 21)]
    (x1, y1), (x2, y2) = picture.frame.turned(2, -11), picture.frame.turned(2, 11)
    shapes = [
        el("rect", x=box.left, y=box.top, width=width, height=height, rx=3),
        *(el("circle", cx=x + right, cy=y + down, r=4.5, class_="thin") for right, down in knobs),
        el("path", d=path([(x + x1, y + y1), (x + x2, y + y2)]), class_="thin"),
    ]
    picture.titles.append(("radio", "Radio", "dim"))
    return thing(picture, "radio", at_the(Radio), radio.name, box, shapes, True)


def _part_shapes(picture: Picture, part: object, x: float, y: float) -> tuple[LabelBox, list[Markup], str]:
    scale = picture.frame.px_per_m
    match part:
        case Amplifier():
            width, height = (max(42.0, min(58.0, 0.46 * scale)), 42.0) if picture.frame.upright else (64.0, 60.0)
            box = box_at(x, y, width, height)
            power = picture.evaluation.figure(f"{part.id}/power_w")
            watts = f"{digits(power.value)} W" if power and power.value else "no load"
            ribs = [box.bottom - 5] if picture.frame.upright else [box.bottom - 9, box.bottom - 5]
            d = "".join(f"M{box.left + 6:.1f} {rib:.1f}h{width - 12:.0f}" for rib in ribs)
            return (
                box,
                [
                    el("rect", x=box.left, y=box.top, width=width, height=height, rx=4),
                    el("path", d=d, class_="thin"),
                    label(x, y - 7, _amplifier_words(picture, part, width - 6), "lab", "middle"),
                    label(x, y + 9, watts, "dim", "middle"),
                ],
                "",
            )
        case Box():
            width, height = picture.frame.lying(max(30.0, part.length_m * scale), max(30.0, part.width_m * scale))
            box = box_at(x, y, width, height)
            return box, [el("rect", x=box.left, y=box.top, width=width, height=height, rx=3, class_="box")], ""
        case Subwoofer():
            together = _together(picture.evaluation.results.design, part)
            half = (18.0 if picture.frame.upright else 24.0) * (1.0 if len(together) == 1 else SMALLER)
            right, down = picture.frame.turned(0.0, (together.index(part) - (len(together) - 1) / 2) * (2 * half + 3))
            x, y = x + right, y + down
            box = box_at(x, y, 2 * half, 2 * half)
            return box, [
                el("circle", cx=x, cy=y, r=half - 1), el("circle", cx=x, cy=y, r=0.63 * half, class_="thin"),
                el("circle", cx=x, cy=y, r=5.5, class_="thin"),
            ], "" if part is not together[-1] else _captioned(len(together))  # fmt: skip
        case PoweredSubwoofer():
            width, height = picture.frame.lying(max(34.0, part.length_m * scale), max(40.0, part.width_m * scale))
            box = box_at(x, y, width, height)
            return box, [
                el("rect", x=box.left, y=box.top, width=width, height=height, rx=6, class_="box"),
                el("circle", cx=x, cy=y, r=12), el("circle", cx=x, cy=y, r=4, class_="thin"),
            ], "Powered subwoofer"  # fmt: skip
        case Converter():
            box = box_at(x, y, 26, 30)
            return (
                box,
                [
                    el("rect", x=box.left, y=box.top, width=26, height=30, rx=3),
                    el(
                        "path",
                        d=f"M{x - 7:.1f} {y - 8:.1f}c6 0 8 16 14 16M{x - 7:.1f} {y + 8:.1f}c6 0 8 -16 14 -16",
                        class_="thin",
                    ),
                ],
                part.kind.capitalize(),
            )
        case VoltageConverter():
            box = box_at(x, y, 46, 26)
            words = label(x, y + 4, f"→ {trimmed(part.out_v)} V", "lab", "middle")
            return box, [el("rect", x=box.left, y=box.top, width=46, height=26, rx=3), words], "Converter"
        case DistributionBlock():
            box = box_at(x, y, 24, 12 + 9 * part.ways)
            screws = [el("circle", cx=x + 5, cy=box.top + 10.5 + 9 * n, r=2.6, class_="thin") for n in range(part.ways)]
            inlet = el("circle", cx=x - 6, cy=y, r=3.4, class_="thin")
            return (
                box,
                [el("rect", x=box.left, y=box.top, width=24, height=12 + 9 * part.ways, rx=3), inlet, *screws],
                "Block",
            )
        case Accessory():
            box = box_at(x, y, 20, 20)
            return box, [
                el("circle", cx=x, cy=y, r=9), el("circle", cx=x, cy=y, r=3.5, class_="thin"),
            ], part.category.capitalize()  # fmt: skip
        case _:
            box = box_at(x, y, 18, 18)
            return box, [el("rect", x=box.left, y=box.top, width=18, height=18, rx=9)], ""


def _amplifier_words(picture: Picture, part: Amplifier, room_px: float) -> str:
    """What stands on an amplifier: its name, or as much of its end as fits, where there are several."""
    several = len(list(picture.evaluation.results.design.parts_of(Amplifier))) > 1
    words = part.name.split() if several else []
    ends = [*(" ".join(words[start:]) for start in range(len(words))), "Amplifier"]
    return next((end for end in ends if text_width(end, "lab") <= room_px), "Amp")


def _place_of(design: Design, part: Part) -> Position | None:
    """Where a part is drawn: a subwoofer in the car's own place sits there."""
    own = part.at_ids[0] if isinstance(part, Subwoofer) and part.at_ids else ""
    return next((s.position for s in design.vehicle.speakers if s.id == own), part.position)


SMALLER = 0.72  # where several stand in one place


def _together(design: Design, part: Subwoofer) -> list[Subwoofer]:
    """The subwoofers that would be drawn in one spot, this one among them."""
    place = _place_of(design, part)
    return [other for other in design.parts_of(Subwoofer) if _place_of(design, other) == place]


def _captioned(number: int) -> str:
    return "Subwoofer" if number == 1 else f"{number} subwoofers"


def draw_parts(picture: Picture) -> Iterator[Markup]:
    design = picture.evaluation.results.design
    order = {"box": 0, "amplifier": 1, "converter": 1, "subwoofer": 2}
    for part in sorted(design.parts, key=lambda p: order.get(p.kind, 3)):
        place = _place_of(design, part)
        if place is None or isinstance(part, FuseHolder) or (isinstance(part, Accessory) and own_lead(part) is None):
            continue
        x, y = picture.frame.at(*place.point)
        box, shapes, caption = _part_shapes(picture, part, x, y)
        if caption:
            picture.titles.append((part.id, caption, "dim"))
        yield thing(picture, part.id, at(part), part.name, box, shapes, True)


def draw_small_things(picture: Picture, layer: Layer) -> Iterator[Markup]:
    vehicle = picture.evaluation.results.design.vehicle
    used = {getattr(k, "ground_point_id", None) or k.to_id for k in picture.evaluation.results.design.links}
    for ground in vehicle.ground_points:
        if layer.grounds and (layer.speakers or ground.id in used):
            x, y = picture.frame.at(*ground.position.point)
            shapes = [
                el("circle", cx=x, cy=y, r=6.5),
                el("path", d=f"M{x:.1f} {y - 3.5:.1f}v7M{x - 3.5:.1f} {y:.1f}h7", class_="thin"),
            ]
            yield thing(
                picture,
                ground.id,
                at(ground),
                ground.name,
                box_at(x, y, 13, 13),
                shapes,
                True,
            )
    for passage in vehicle.passages:
        x, y = picture.frame.at(*passage.position.point)
        shapes = [el("circle", cx=x, cy=y, r=7), el("circle", cx=x, cy=y, r=3.2, class_="thin")]
        yield thing(picture, passage.id, at(passage), passage.name, box_at(x, y, 14, 14), shapes, True)
    if layer.feeds:
        for feed in vehicle.feeds:
            x, y = picture.frame.at(*feed.position.point)
            shapes = [el("path", d=f"M{x:.1f} {y - 6:.1f}l6 6l-6 6l-6 -6Z")]
            yield thing(picture, feed.id, at(feed), feed.name, box_at(x, y, 12, 12), shapes, True)
    if layer.speakers or layer.touched:
        yield from _speakers(picture, layer)


def _speakers(picture: Picture, layer: Layer) -> Iterator[Markup]:
    """The car's speaker places: all, or those the plan does something to; there a new driver has a dark dome."""
    design = picture.evaluation.results.design
    new = {name: part for part in design.parts_of(Driver) for name in part.at_ids}
    ends = {link.to_id for link in design.links_of(SpeakerLink)}
    for speaker in design.vehicle.speakers:
        part = new.get(speaker.id)
        if not layer.speakers and part is None and speaker.id not in ends:
            continue
        x, y = picture.frame.at(*speaker.position.point)
        dome = el("circle", cx=x, cy=y, r=5, class_="dome" if part and layer.touched else "thin")
        title = f"{part.name} in {speaker.name}" if part and layer.touched else speaker.name
        shapes = [el("circle", cx=x, cy=y, r=11), dome]
        yield thing(picture, speaker.id, at(speaker), title, box_at(x, y, 22, 22), shapes, True)
