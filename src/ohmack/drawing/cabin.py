"""The cabin on the plan: zones to keep clear of, spaces, factory modules with their links, earlier damage."""

from __future__ import annotations

from collections.abc import Iterator

from markupsafe import Markup

from ohmack.core.document.cabin import Space, Zone, ZoneKind
from ohmack.core.document.factory import FactoryLinkKind, ModuleKind
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at
from ohmack.drawing.picture import Layer, Picture, box_at, thing
from ohmack.drawing.svg import el, group, label, path

SHORT = {
    ModuleKind.AMPLIFIER: "AMP",
    ModuleKind.SUB_AMPLIFIER: "SUB",
    ModuleKind.DISPLAY: "DISP",
    ModuleKind.TUNER: "TUN",
    ModuleKind.CHANGER: "CD",
    ModuleKind.HANDS_FREE: "TEL",
    ModuleKind.GATEWAY: "BUS",
    ModuleKind.PARKING: "PARK",
    ModuleKind.CAMERA: "CAM",
    ModuleKind.MICROPHONE: "MIC",
    ModuleKind.AERIAL: "AER",
    ModuleKind.AERIAL_AMPLIFIER: "AER",
    ModuleKind.ALARM: "ALM",
    ModuleKind.OTHER: "?",
}
LINK_CLASS = {
    FactoryLinkKind.ANALOGUE: "f-line", FactoryLinkKind.SPEAKER: "f-speaker", FactoryLinkKind.RING: "f-ring",
    FactoryLinkKind.BUS: "f-bus", FactoryLinkKind.FEED: "f-feed", FactoryLinkKind.AERIAL: "f-aerial",
    FactoryLinkKind.VIDEO: "f-video", FactoryLinkKind.MICROPHONE: "f-aerial",
}  # fmt: skip


def _rect(picture: Picture, place: Position, length_m: float, width_m: float) -> tuple[float, float, float, float]:
    rect = picture.frame.rect(place.x_m, place.y_m, length_m, width_m)
    return rect["x"], rect["y"], rect["width"], rect["height"]


def draw_below(picture: Picture, layer: Layer) -> Markup:
    """What lies under cables and parts: spaces, zones, factory links."""
    vehicle = picture.evaluation.results.design.vehicle
    pieces: list[Markup] = []
    if layer.spaces:
        pieces += [_space(picture, space) for space in vehicle.spaces]
    if layer.zones:
        hit = {crossing.zone.id for crossing in picture.evaluation.results.crossings}
        pieces += [_zone(picture, zone, zone.id in hit) for zone in vehicle.zones if zone.present.value is not False]
    if layer.modules:
        pieces += _links(picture)
    return group(pieces, class_="cabin")


def _zone(picture: Picture, zone: Zone, hit: bool) -> Markup:
    x, y, width, height = _rect(picture, zone.position, zone.length_m, zone.width_m)
    tone = "zone" + (" heat" if zone.kind is ZoneKind.HEAT else "") + (" hit" if hit else "")
    shape = el("rect", x=x, y=y, width=width, height=height, rx=3, class_=tone)
    address = picture.link_to(at(zone))
    title = zone.name + (", in the way of a cable or a part" if hit else "")
    if not address:
        return group([shape])
    return el(
        "a",
        el("title", title),
        shape,
        href=address,
        class_="zone-link",
        aria_label=title,
        data_thing=None if picture.frame.upright else at(zone),
        data_move=None if picture.frame.upright else "yes",
        id=f"{picture.prefix}thing-{zone.id}",
        tabindex=None if hit else "-1",
    )


def _space(picture: Picture, space: Space) -> Markup:
    length_m, width_m = space.length_m.value or 0.6, space.width_m.value or 0.8
    x, y, width, height = _rect(picture, space.position, length_m, width_m)
    shape = el("rect", x=x, y=y, width=width, height=height, rx=4, class_="space")
    address = picture.link_to(at(space))
    picture.things[space.id] = box_at(x + 10, y + 10, 14, 14)
    if not address:
        return group([shape])
    return el(
        "a", el("title", space.name), shape, href=address, class_="space-link", aria_label=space.name,
        data_thing=None if picture.frame.upright else at(space), data_move=None if picture.frame.upright else "yes",
        id=f"{picture.prefix}thing-{space.id}",
    )  # fmt: skip


def _places(picture: Picture) -> dict[str, Position]:
    vehicle = picture.evaluation.results.design.vehicle
    places = {vehicle.radio.id: vehicle.radio.position}
    for pool in (vehicle.modules, vehicle.feeds, vehicle.speakers, vehicle.supply.batteries):
        places |= {item.id: item.position for item in pool}
    return places


def _links(picture: Picture) -> Iterator[Markup]:
    """Factory links as gentle bows, so that a ring and its bus do not hide each other."""
    places = _places(picture)
    for number, link in enumerate(picture.evaluation.results.design.vehicle.factory_links):
        if link.from_id not in places or link.to_id not in places:
            continue
        x1, y1 = picture.frame.at(*places[link.from_id].point)
        x2, y2 = picture.frame.at(*places[link.to_id].point)
        bow = 0.16 if number % 2 else -0.16
        middle = ((x1 + x2) / 2 - bow * (y2 - y1), (y1 + y2) / 2 + bow * (x2 - x1))
        d = f"M{x1:.1f} {y1:.1f}Q{middle[0]:.1f} {middle[1]:.1f} {x2:.1f} {y2:.1f}"
        dead = " dead" if link.carries.value is False else ""
        title = f"{link.kind.value}, {link.from_id} to {link.to_id}" + (", carries nothing" if dead else "")
        strokes = [el("path", d=d, class_="f-hit"), el("path", d=d, class_=f"f-link {LINK_CLASS[link.kind]}{dead}")]
        address = picture.link_to(at(link))
        if address:
            yield el(
                "a",
                el("title", title),
                *strokes,
                href=address,
                class_="f-join",
                aria_label=title,
                id=f"{picture.prefix}join-{link.id}",
            )
        else:
            yield group(strokes)
        box = box_at((x1 + 2 * middle[0] + x2) / 4, (y1 + 2 * middle[1] + y2) / 4, 8, 8)
        picture.labels.line([(x1, y1), middle, (x2, y2)], 3)
        picture.things[f"join-{link.id}"] = box


def draw_modules(picture: Picture, only: frozenset[str] | None = None) -> list[Markup]:
    """The boxes of the factory system, or some of them by id: a plate with its short name; one that is not fitted is
    struck out.
    """
    shapes = []
    for module in picture.evaluation.results.design.vehicle.modules:
        if only is not None and module.id not in only:
            continue
        x, y = picture.frame.at(*module.position.point)
        words = SHORT[module.kind]
        width = 18 + 7.0 * len(words)
        box = box_at(x, y, width, 22)
        pieces = [
            el(
                "rect",
                x=box.left,
                y=box.top,
                width=width,
                height=22,
                rx=2,
                class_="module" + (" added" if module.by_owner else ""),
            ),
            label(x, y + 4.5, words, "lab", "middle"),
        ]
        if module.fitted.value is False:
            pieces.append(el("path", d=path([(box.left, box.bottom), (box.right, box.top)]), class_="thin"))
        shapes.append(thing(picture, module.id, at(module), module.name, box, pieces, True))
    return shapes


def draw_damage(picture: Picture) -> list[Markup]:
    """What an earlier owner did: a broken wire in a ring."""
    shapes = []
    for found in picture.evaluation.results.design.vehicle.alterations:
        x, y = picture.frame.at(*found.position.point)
        pieces = [
            el("circle", cx=x, cy=y, r=9, class_="damage"),
            el("path", d=f"M{x - 6:.1f} {y + 1:.1f}h4l2 -4M{x + 1:.1f} {y + 4:.1f}l1 -3h4", class_="thin damage-wire"),
        ]
        title = f"{found.kind.value}: {found.name}"
        shapes.append(thing(picture, found.id, at(found), title, box_at(x, y, 18, 18), pieces, True))
    return shapes


def draw_way(picture: Picture, layer: Layer) -> list[Markup]:
    """The way a function takes over the modules."""
    places = _places(picture)
    points = [picture.frame.at(*places[node].point) for node in layer.way if node in places]
    pieces: list[Markup] = []
    if len(points) > 1:
        pieces.append(el("path", d=path(points), class_="f-way-under"))
        pieces.append(el("path", d=path(points), class_="f-way"))
        picture.labels.line(points, 4)
    elif points:
        x, y = points[0]
        pieces.append(el("circle", cx=x, cy=y, r=22, class_="f-way"))
    return pieces


def draw_break(picture: Picture, layer: Layer) -> list[Markup]:
    """Where a plan breaks the way of a function."""
    places = _places(picture)
    if layer.broken_at not in places:
        return []
    x, y = picture.frame.at(*places[layer.broken_at].point)
    return [el("path", d=f"M{x - 13:.1f} {y - 13:.1f}l26 26m0 -26l-26 26", class_="f-broken")]


def draw_acts(picture: Picture, layer: Layer) -> list[Markup]:
    """What a plan does to the radio and the modules, as a word beside each, off everything else."""
    pieces: list[Markup] = []
    for thing_id, words in layer.acts:
        box = picture.things.get(thing_id)
        if box is not None:
            width = 10 + 6.2 * len(words)
            x, y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
            beside = (box.right - box.left + width) / 2 + 2
            spots = [(x, box.bottom + 9), (x, box.top - 9), (x + beside, y), (x - beside, y)]
            x, y = min(spots, key=lambda s: (picture.labels.cost(box_at(s[0], s[1], width, 18)), spots.index(s)))
            pieces.append(el("rect", x=x - width / 2, y=y - 8, width=width, height=16, rx=8, class_="act-pill"))
            pieces.append(label(x, y + 4, words, "act-word", "middle"))
            picture.labels.block(box_at(x, y, width, 18))
    return pieces
