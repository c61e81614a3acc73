"""The car with its things and runs on it: the picture every stage shares."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from markupsafe import Markup

from ohmack.core.build.lists import insulation
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Radio
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import RemoteLink
from ohmack.core.document.parts import (
    Accessory,
    Box,
    Converter,
    DistributionBlock,
    FuseHolder,
    Part,
    PoweredSubwoofer,
    Subwoofer,
)
from ohmack.core.fit.runs import Run
from ohmack.core.physics.geometry import point_at
from ohmack.core.supply.results import SupplyResult
from ohmack.core.wording import count, digits, listed
from ohmack.drawing.cabin import draw_acts, draw_below, draw_break, draw_damage, draw_modules, draw_way
from ohmack.drawing.car import draw_car
from ohmack.drawing.labels import Box as LabelBox
from ohmack.drawing.labels import around
from ohmack.drawing.picture import Layer, Picture, box_at, thing
from ohmack.drawing.side_by_side import shifts_px
from ohmack.drawing.svg import el, group, label, path, text_width

THICKNESS = {
    "power": 6.0,
    "charge": 5.0,
    "capacitor": 5.0,
    "ground": 6.0,
    "speaker": 3.4,
    "tap": 2.6,
    "line": 5.0,
    "remote": 2.4,
    "feed": 3.0,
}


def _battery(picture: Picture) -> Iterator[Markup]:
    for battery in picture.evaluation.results.design.vehicle.supply.batteries:
        x, y = picture.frame.at(*battery.position.point)
        width, height = (36.0, 28.0) if picture.frame.upright else (44.0, 36.0)
        box = box_at(x, y, width, height)
        shapes = [
            el("path", d=f"M{box.left + 6:.1f} {box.top:.1f}v-5h9v5M{box.right - 15:.1f} {box.top:.1f}v-5h9v5"),
            el("rect", x=box.left, y=box.top, width=width, height=height, rx=3),
            label(x - width / 4, y + 5, "+", "lab", "middle"), label(x + width / 4, y + 5, "−", "lab", "middle"),
        ]  # fmt: skip
        yield thing(picture, battery.id, at(battery), battery.name, box, shapes, True)


def _radio(picture: Picture) -> Markup:
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
            half = 18.0 if picture.frame.upright else 24.0
            box = box_at(x, y, 2 * half, 2 * half)
            return box, [
                el("circle", cx=x, cy=y, r=half - 1), el("circle", cx=x, cy=y, r=0.63 * half, class_="thin"),
                el("circle", cx=x, cy=y, r=5.5, class_="thin"),
            ], "Subwoofer"  # fmt: skip
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
        case DistributionBlock():
            box = box_at(x, y, 24, 12 + 9 * part.ways)
            screws = [el("circle", cx=x + 5, cy=box.top + 10.5 + 9 * n, r=2.6, class_="thin") for n in range(part.ways)]
            inlet = el("circle", cx=x - 6, cy=y, r=3.4, class_="thin")
            return (
                box,
                [el("rect", x=box.left, y=box.top, width=24, height=12 + 9 * part.ways, rx=3), inlet, *screws],
                "Block",
            )
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


def _parts(picture: Picture) -> Iterator[Markup]:
    design = picture.evaluation.results.design
    order = {"box": 0, "amplifier": 1, "converter": 1, "subwoofer": 2}
    for part in sorted(design.parts, key=lambda p: order.get(p.kind, 3)):
        place = _place_of(design, part)
        if place is None or isinstance(part, (FuseHolder, Accessory)):
            continue
        x, y = picture.frame.at(*place.point)
        box, shapes, caption = _part_shapes(picture, part, x, y)
        if caption:
            picture.titles.append((part.id, caption, "dim"))
        yield thing(picture, part.id, at(part), part.name, box, shapes, True)


def _small_things(picture: Picture, layer: Layer) -> Iterator[Markup]:
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
    if layer.speakers:
        for speaker in vehicle.speakers:
            x, y = picture.frame.at(*speaker.position.point)
            shapes = [el("circle", cx=x, cy=y, r=11), el("circle", cx=x, cy=y, r=5, class_="thin")]
            yield thing(picture, speaker.id, at(speaker), speaker.name, box_at(x, y, 22, 22), shapes, True)


def run_px(picture: Picture, run: Run) -> list[tuple[float, float]]:
    """A run's points in the picture."""
    right, down = picture.shifts.get(run.link.id, (0.0, 0.0))
    return [(x + right, y + down) for x, y in (picture.frame.at(*point) for point in run.points or ())]


def _longest(picture: Picture, points: list[tuple[float, float]]) -> tuple[tuple[float, float], tuple[float, float]]:
    """The piece of a run with most room for a label along the car."""
    across, down = (0.2, 1.0) if picture.frame.upright else (1.0, 0.2)
    return max(pairwise(points), key=lambda s: across * abs(s[1][0] - s[0][0]) + down * abs(s[1][1] - s[0][1]))


def _relay(picture: Picture, x: float, y: float) -> Markup:
    """A relay in a switch-on lead: coil and contact in a box."""
    picture.labels.block(box_at(x, y, 26, 18))
    return group(
        [
            el("rect", x=x - 13, y=y - 9, width=26, height=18, rx=2, class_="module"),
            el("path", d=f"M{x - 8:.1f} {y - 4:.1f}v8h6v-8zM{x + 3:.1f} {y + 4:.1f}l6 -7", class_="thin"),
        ]
    )


def _wire(picture: Picture, run: Run, quiet: bool) -> Markup:
    kind, points = run.link.kind, run_px(picture, run)
    thickness = THICKNESS[kind]
    picture.labels.line(points, thickness + 2)
    d, colour = path(points), insulation(picture.evaluation.design, run.link)
    tone = colour.split(",")[0].split("/")[0].strip().lower()
    if kind == "line":
        strokes = [
            el("path", d=d, class_="w-line", stroke_width=thickness),
            el("path", d=d, class_="w-line-core", stroke_width=2.2),
        ]
    else:
        strokes = [
            el("path", d=d, class_="w-out", stroke_width=thickness + 2.4),
            el("path", d=d, class_=f"w-{tone if tone.isalpha() else 'grey'}", stroke_width=thickness),
        ]
    title = f"{run.start_name} to {run.end_name}"
    (x1, y1), (x2, y2) = _longest(picture, points)
    if isinstance(run.link, RemoteLink) and run.link.relay:
        strokes.append(_relay(picture, (x1 + x2) / 2, (y1 + y2) / 2))
        title += ", through a relay"
    picture.things[f"run-{run.link.id}"] = box_at((x1 + x2) / 2, (y1 + y2) / 2, 4, thickness)
    chosen = picture.selected.startswith(at(run.link))
    later = run.link.id in picture.evaluation.later_ids
    if later:
        title += ", comes later"
    if not picture.link_to(at(run.link)):
        return group(strokes, class_="wire")
    return el(
        "a",
        el("title", title),
        *strokes,
        href=picture.link_to(at(run.link)),
        aria_label=title,
        class_="wire" + (" quiet" if quiet else "") + (" chosen" if chosen else "") + (" later" if later else ""),
        id=f"{picture.prefix}wire-{run.link.id}",
    )


def _fuses(picture: Picture) -> Iterator[Markup]:
    for supply in picture.evaluation.results.supplies:
        run, fuse = picture.evaluation.results.runs[supply.link.id], supply.link.fuse
        if not run.points or _in_block(picture, supply):
            continue
        if fuse is None:
            x, y = picture.frame.at(*point_at(run.points, 0.3))
            words, tone = "no fuse", "fuse gone"
        else:
            x, y = picture.frame.at(*point_at(run.points, fuse.from_source_m.value or 0.3))
            rating = supply.figures["fuse"].value
            words, tone = (f"{rating:g} A" if rating else "? A"), "fuse"
        box, leader = _beside(picture, x, y, 12 + 7.2 * len(words), 22)
        x, y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
        shapes = [
            leader,
            el("rect", x=box.left, y=box.top, width=box.right - box.left, height=22, rx=4, class_=tone),
            label(x, y + 4.5, words, "lab", "middle"),
        ]
        yield thing(
            picture, f"fuse-{supply.link.id}", at(supply.link, lambda it: it.fuse), "Main fuse", box, shapes, False
        )


def _beside(picture: Picture, x: float, y: float, width: float, height: float) -> tuple[LabelBox, Markup]:
    """A tag on its place, or beside it with a line to it where something else is drawn there; nearest first."""
    offsets = [
        (0.0, 0.0), (0, -26), (0, 26), (0.8 * width, 0), (-0.8 * width, 0), (width, -30), (-width, -30), (width, 30),
        (-width, 30), (0, -52), (0, 52), (0, -78), (0, 78),
    ]  # fmt: skip

    def covered(offset: tuple[float, float]) -> float:
        tag = box_at(x + offset[0], y + offset[1], width, height)
        on = sum(tag.overlap(box) for name, box in picture.things.items() if not name.startswith("run-"))
        return on + 1000 * tag.outside(picture.labels.frame)

    right, down = min(offsets, key=lambda offset: (covered(offset) > 0, covered(offset), offsets.index(offset)))
    leader = (
        el("path", d=f"M{x:.1f} {y:.1f}l{right:.1f} {down:.1f}", class_="leader") if (right, down) != (0, 0) else ""
    )
    return box_at(x + right, y + down, width, height), Markup(leader)


def _in_block(picture: Picture, supply: SupplyResult) -> bool:
    """Whether a run's fuse sits in the block it starts at, or is the one before it: then its run says the rating."""
    start = picture.evaluation.results.design.part(supply.link.from_id)
    return isinstance(start, DistributionBlock) and (start.fused or supply.link.fuse is None)


def _way_points(picture: Picture, layer: Layer) -> Iterator[Markup]:
    for run in picture.evaluation.results.runs.values():
        if run.link.kind not in layer.links or not run.points:
            continue
        for number_, way in enumerate(run.link.way_points):
            right, down = picture.shifts.get(run.link.id, (0.0, 0.0))
            x, y = picture.frame.at(*way.point)
            x, y = x + right, y + down
            yield el(
                "circle", cx=x, cy=y, r=5.5, class_="way-point", tabindex="0", role="button",
                data_thing=f"links/{run.link.id}/way_points/{number_}", data_move="yes",
                aria_label=f"Way point {number_ + 1} of {run.start_name} to {run.end_name}",
            )  # fmt: skip


def _marks(picture: Picture, layer: Layer) -> Iterator[Markup]:
    for mark in layer.marks:
        box = picture.things.get(mark.thing_id)
        if box is None:
            continue
        radius = 11.0
        middle_x, middle_y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
        spots = [
            (box.right + radius + 3, box.top - 2), (box.right + radius + 3, box.bottom + 2),
            (box.left - radius - 3, box.top - 2), (box.left - radius - 3, box.bottom + 2),
            (middle_x, box.top - radius - 4), (middle_x, box.bottom + radius + 4),
            (box.right + radius + 4, middle_y), (box.left - radius - 4, middle_y),
            (box.right + 30, middle_y), (box.left - 30, middle_y),
        ]  # fmt: skip
        x, y = min(spots, key=lambda s: (picture.labels.cost(box_at(s[0], s[1], 24, 24)), spots.index(s)))
        picture.labels.block(box_at(x, y, 24, 24))
        half = f"M{x:.1f} {y - radius:.1f}A{radius} {radius} 0 0 0 {x:.1f} {y + radius:.1f}Z"
        address = picture.link_to(mark.path)
        yield el(
            "a" if address else "g",
            el("title", mark.title),
            el("circle", cx=x, cy=y, r=radius, class_=f"mark {mark.basis}"),
            el("path", d=half, class_="mark-half") if mark.basis == "documented" else "",
            label(x, y + 4.3, str(mark.number), "lab", "middle", f"mark-{mark.basis}"),
            href=address or None,
            class_="mark-link",
            aria_label=mark.title if address else None,
        )


def _captions(picture: Picture, layer: Layer) -> Iterator[Markup]:
    """Labels of things and runs, placed off everything drawn."""
    results = picture.evaluation.results
    leads: dict[str, list[str]] = {}  # lengths of ground leads by the point they end at
    for supply in results.supplies:
        run = results.runs[supply.link.id]
        if "power" in layer.links and run.points and supply.figures["wire"].value:
            length = run.length.value
            words = [str(supply.figures["wire"].value), *([results.say(length, "m")] if length else [])]
            if supply.link.fuse and _in_block(picture, supply) and supply.figures["fuse"].value:
                words.append(f"{supply.figures['fuse'].value:g} A")
            text = ", ".join(words)
            yield _run_caption(picture, run, text, "big")
        if supply.ground and "ground" in layer.links:
            length = results.runs[supply.ground.id].length.value
            if length and supply.ground.to_id in picture.things:
                leads.setdefault(supply.ground.to_id, []).append(results.say(length, "m"))
    for point_id, lengths in leads.items():
        grounds = "ground" if len(lengths) == 1 else count(len(lengths), "ground")
        spots = around(picture.things[point_id])
        yield _caption(picture, f"{grounds}, {listed(list(dict.fromkeys(lengths)))}", "dim", spots)
    lines: dict[str, list[Run]] = {}  # by what they go into; side by side they get one caption
    for signal in results.signals:
        line = results.runs[signal.way.line.id] if signal.way.line is not None else None
        if line is not None and "line" in layer.links and line.points:
            lines.setdefault(signal.amplifier.id, []).append(line)
    for pairs in lines.values():
        screened = "line level" if len(pairs) == 1 else count(len(pairs), "RCA pair")
        yield _run_caption(picture, pairs[0], f"{screened}, screened", "dim")
    for thing_id, text, style in picture.titles:
        box = picture.things.get(thing_id)
        if box:
            yield _caption(picture, text, style, around(box))


def _caption(picture: Picture, text: str, style: str, spots: list[tuple[float, float, str]]) -> Markup:
    placed = picture.labels.place(text, style, spots)
    return label(placed.x, placed.y, text, style, "start", "halo")


def _run_caption(picture: Picture, run: Run, text: str, style: str) -> Markup:
    points = run_px(picture, run)
    longest = _longest(picture, points)
    spots = []
    for (x1, y1), (x2, y2) in (longest, *pairwise(points)):
        for share in (0.5, 0.35, 0.65, 0.25, 0.75):
            x, y = x1 + share * (x2 - x1), y1 + share * (y2 - y1)
            inward = -9.0 if y > picture.frame.height_px / 2 else 20.0
            flat = [(x, y + inward, "middle"), (x, y + (20.0 if inward < 0 else -9.0), "middle")]
            beside = [(x + 12, y + 5, "start"), (x - 12, y + 5, "end")]
            spots += [*beside, *flat] if picture.frame.upright else [*flat, *beside]
    (x1, y1), (x2, y2) = longest
    spots += [
        ((x1 + x2) / 2 + dx, (y1 + y2) / 2 + dy, "middle") for dy in (40, -32, 58, -50, 76) for dx in (0, 60, -60)
    ]
    return _caption(picture, text, style, spots)


def draw_plan(picture: Picture, layer: Layer) -> Markup:
    """Car, runs, things, marks and labels as one group."""
    runs = picture.evaluation.results.runs.values()
    picture.shifts = shifts_px(run for run in runs if run.link.kind in (*layer.links, *layer.quiet_links))
    pieces: list[Markup] = [
        draw_car(picture.evaluation.results.design.vehicle, picture.frame),
        draw_below(picture, layer),
    ]
    wires = [
        _wire(picture, run, quiet=run.link.kind in layer.quiet_links)
        for run in runs
        if run.points and (run.link.kind in layer.links or run.link.kind in layer.quiet_links)
    ]
    pieces.append(group(wires, class_="wires"))
    if layer.way_points:
        pieces.append(group(_way_points(picture, layer), class_="way-points"))
    things: list[Markup] = [*_battery(picture), _radio(picture), *_small_things(picture, layer)]
    if layer.modules:
        things += draw_modules(picture)
    if layer.damage:
        things += draw_damage(picture)
    if layer.parts:
        things += _parts(picture)
        if "power" in layer.links:
            things += _fuses(picture)
    if layer.way:
        pieces.append(group(draw_way(picture, layer), class_="ways-drawn"))
    pieces.append(group(things, class_="things"))
    if layer.acts:
        pieces.append(group(draw_acts(picture, layer), class_="acts"))
    if layer.broken_at:
        pieces.append(group(draw_break(picture, layer), class_="ways-drawn"))
    pieces.append(group(_marks(picture, layer), class_="marks"))
    if layer.labels:
        pieces.append(group(_captions(picture, layer), class_="captions"))
    return group(pieces)
