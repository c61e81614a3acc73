"""The car with its things and runs on it: the picture every stage shares."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from markupsafe import Markup

from ohmack.core.build.lists import PURPOSE, insulation
from ohmack.core.document.handles import at
from ohmack.core.document.links import RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.parts import (
    DistributionBlock,
)
from ohmack.core.fit.runs import Run, over_loom_from
from ohmack.core.physics.geometry import point_at
from ohmack.core.reference import read_toml
from ohmack.core.signal.ways import tapped_source
from ohmack.core.supply.results import SupplyResult
from ohmack.core.wording import count, listed, times_of
from ohmack.drawing.cabin import draw_acts, draw_below, draw_break, draw_damage, draw_modules, draw_way
from ohmack.drawing.car import draw_car
from ohmack.drawing.labels import Box as LabelBox
from ohmack.drawing.labels import around
from ohmack.drawing.outgoing import draw_outgoing_cables, draw_outgoing_parts
from ohmack.drawing.picture import Layer, Picture, box_at, thing
from ohmack.drawing.side_by_side import shifts_px
from ohmack.drawing.svg import el, group, label, path
from ohmack.drawing.things import draw_batteries, draw_parts, draw_radio, draw_small_things

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


KIND = {words: kind for kind, words in PURPOSE.items()} | {"Bass knob": "remote"}
KIND |= {row["lead"]: "tap" for row in read_toml("own_leads")["kinds"].values() if isinstance(row, dict)}


STRAIGHT_PX = 0.5  # along or across the car


def run_px(picture: Picture, run: Run) -> list[tuple[float, float]]:
    """A run's points in the picture, beside its place where others lie there; its ends are not drawn further out."""
    right, down = picture.shifts.get(run.link.id, (0.0, 0.0))
    there = [picture.frame.at(*point) for point in run.points or ()]
    shifted = [(x + right, y + down) for x, y in there]
    for end, before in ((0, 1), (-1, -2)) if len(there) > 1 else ():
        (x, y), (other_x, other_y) = there[end], there[before]
        if abs(y - other_y) < STRAIGHT_PX:
            shifted[end] = (x, y + down)
        elif abs(x - other_x) < STRAIGHT_PX:
            shifted[end] = (x + right, y)
    return shifted


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


def _strokes(picture: Picture, kind: str, points: list[tuple[float, float]], colour: str) -> list[Markup]:
    """A cable of a kind and colour along points of the picture, which no label may cover."""
    thickness = THICKNESS[kind]
    picture.labels.line(points, thickness + 2)
    d, tone = path(points), colour.split(",")[0].split("/")[0].strip().lower()
    if kind == "line":
        return [
            el("path", d=d, class_="w-line", stroke_width=thickness),
            el("path", d=d, class_="w-line-core", stroke_width=2.2),
        ]
    return [
        el("path", d=d, class_="w-out", stroke_width=thickness + 2.4),
        el("path", d=d, class_=f"w-{tone if tone.isalpha() else 'grey'}", stroke_width=thickness),
    ]


def _unlinked(picture: Picture, layer: Layer) -> Iterator[Markup]:
    """Cables no link of the plan stands for, straight from end to end."""
    for row in picture.evaluation.results.wire_rows:
        kind = KIND.get(row.purpose, "")
        if not row.points or not kind or kind not in (*layer.links, *layer.quiet_links):
            continue
        points = [picture.frame.at(*point) for point in row.points]
        quiet = " quiet" if kind in layer.quiet_links else ""
        words = el("title", f"{row.start} to {row.end}")
        yield group([words, *_strokes(picture, kind, points, row.colour)], class_=f"wire{quiet}")
    for pack in picture.evaluation.results.pack_feeds if "power" in layer.links else ():
        if pack.part.position is not None:
            points = [picture.frame.at(*place.point) for place in (pack.battery.position, pack.part.position)]
            words = el("title", f"{pack.battery.name} to {pack.part.name}, both poles")
            yield group([words, *_strokes(picture, "power", points, "red")], class_="wire")


def _wire(picture: Picture, run: Run, quiet: bool) -> Markup:
    kind, points = run.link.kind, run_px(picture, run)
    thickness = THICKNESS[kind]
    strokes = _strokes(picture, kind, points, insulation(picture.evaluation.design, run.link))
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
    there = run.link.in_car and not picture.evaluation.design.all_in_car
    if there:
        title += ", lies in the car"
    if not picture.link_to(at(run.link)):
        return group(strokes, class_="wire")
    marks = {"quiet": quiet, "chosen": chosen, "later": later, "there": there}
    return el(
        "a",
        el("title", title),
        *strokes,
        href=picture.link_to(at(run.link)),
        aria_label=title,
        class_=" ".join(["wire", *(word for word, so in marks.items() if so)]),
        id=f"{picture.prefix}wire-{run.link.id}",
    )


def _fuses(picture: Picture) -> Iterator[Markup]:
    """The tags of the fuses, the lines to those that stand beside their place under all of them."""
    leaders, tags = [], []
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
            words, tone = f"{times_of(supply.link.fuse_count)}{rating:g} A" if rating else "? A", "fuse"
        box, leader = _beside(picture, x, y, 12 + 7.2 * len(words), 22)
        x, y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
        leaders.append(leader)
        shapes = [
            el("rect", x=box.left, y=box.top, width=box.right - box.left, height=22, rx=4, class_=tone),
            label(x, y + 4.5, words, "lab", "middle"),
        ]
        path = at(supply.link, lambda it: it.fuse)
        tags.append(thing(picture, f"fuse-{supply.link.id}", path, "Main fuse", box, shapes, False))
    yield from (*leaders, *tags)


def _beside(picture: Picture, x: float, y: float, width: float, height: float) -> tuple[LabelBox, Markup]:
    """A tag on its place, or beside it with a line to it where something else is drawn there; nearest first."""
    offsets = [
        (0.0, 0.0), (0, -26), (0, 26), (0.8 * width, 0), (-0.8 * width, 0), (width, -30), (-width, -30), (width, 30),
        (-width, 30), (0, -52), (0, 52), (0, -78), (0, 78),
    ]  # fmt: skip

    things = [box for name, box in picture.things.items() if not name.startswith("run-")]

    def covered(offset: tuple[float, float]) -> float:
        tag = box_at(x + offset[0], y + offset[1], width, height)
        return sum(map(tag.overlap, things)) + 1000 * tag.outside(picture.labels.frame)

    free = (offset for offset in offsets if covered(offset) <= 0)
    right, down = next(free, None) or min(offsets, key=covered)
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
        x, y = _clear_of(picture, spots, box)
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


COVERED = 100 * 24 * 24 / 6  # a mark that covers more of other things than a sixth of itself looks farther out


def _clear_of(picture: Picture, spots: list[tuple[float, float]], box: LabelBox) -> tuple[float, float]:
    """The best of some spots of a mark beside a thing; where all of them cover something, the best farther out."""

    def cost(spot: tuple[float, float]) -> float:
        return picture.labels.cost(box_at(*spot, 24, 24))

    best = min(spots, key=lambda s: (cost(s), spots.index(s)))
    if cost(best) <= COVERED:
        return best
    x, y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
    far = [
        (x + across * (reach + (box.right - box.left) / 2), y + down * (reach + (box.bottom - box.top) / 2))
        for reach in (22, 34, 46)
        for across, down in ((1, -1), (1, 1), (-1, -1), (-1, 1), (0, -1), (0, 1), (1, 0), (-1, 0))
    ]
    return min([best, *far], key=cost)


def _captions(picture: Picture, layer: Layer) -> Iterator[Markup]:
    """Labels of things and runs, placed off everything drawn."""
    results = picture.evaluation.results
    leads: dict[str, list[str]] = {}  # lengths of ground leads by the point they end at
    for supply in results.supplies:
        run = results.runs[supply.link.id]
        if "power" in layer.links and run.points and supply.figures["wire"].value:
            length = run.length.value
            crowded = picture.frame.upright and len(results.supplies) > 1  # the tables say the lengths too
            words = [str(supply.figures["wire"].value), *([results.say(length, "m")] if length and not crowded else [])]
            if supply.link.fuse and _in_block(picture, supply) and supply.figures["fuse"].value:
                words.append(f"{times_of(supply.link.fuse_count)}{supply.figures['fuse'].value:g} A")
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
        ((x1 + x2) / 2 + dx, (y1 + y2) / 2 + dy, "middle")
        for dy in (40, -32, 58, -50, 76, -68, 94, -86, 112)
        for dx in (0, 60, -60)
    ]
    return _caption(picture, text, style, spots)


def _met(picture: Picture, layer: Layer) -> frozenset[str]:
    """What cables of this layer end at on the loom, by id: the radio is drawn anyhow, a factory amplifier for them."""
    design = picture.evaluation.results.design
    over = (over_loom_from(design, k) for k in design.links_of(SpeakerLink) if k.kind in layer.links)
    tapped = (tapped_source(design, k) for k in design.links_of(TapLink) if k.kind in layer.links)
    return frozenset(source.id for source in (*over, *tapped) if source is not None)


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
    pieces.append(group([*wires, *_unlinked(picture, layer)], class_="wires"))
    if layer.touched:
        pieces.append(group(draw_outgoing_cables(picture), class_="outgoing"))
    if layer.way_points:
        pieces.append(group(_way_points(picture, layer), class_="way-points"))
    things: list[Markup] = [*draw_batteries(picture), draw_radio(picture), *draw_small_things(picture, layer)]
    things += draw_modules(picture, None if layer.modules else _met(picture, layer))
    if layer.damage:
        things += draw_damage(picture)
    if layer.parts:
        things += draw_parts(picture)
        if "power" in layer.links:
            things += _fuses(picture)
    if layer.touched:
        things += draw_outgoing_parts(picture)
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
