"""The voltage along the loop, on the car's axis straight under the run, or unrolled where that cannot work."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import hypot

from markupsafe import Markup

from ohmack.core.network.model import Place
from ohmack.core.physics.geometry import follows_axis
from ohmack.core.prove.beside import ReadVolts, volts_read
from ohmack.core.supply.results import Segment, SupplyResult
from ohmack.core.wording import amount
from ohmack.drawing.car import WIDTH
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.picture import Picture
from ohmack.drawing.svg import el, group, label, path

CHART_HEIGHT = 214.0
_UP, _DOWN = 96.0, 58.0  # px for the positive side and for the ground side
_LEFT, _RIGHT = 76.0, WIDTH - 40.0


# Where a label goes: 1 the positive side, -1 right of the ground point, 2 over the body return.
SPOTS = {
    1: ((12.0, -6.0, "start"), (12.0, 6.0, "start"), (12.0, 18.0, "start"), (-12.0, 24.0, "end")),
    -1: ((10.0, 4.0, "start"), (10.0, 18.0, "start"), (-10.0, -14.0, "end")),
    2: ((-40.0, -12.0, "middle"), (60.0, -14.0, "middle"), (-80.0, -10.0, "middle"), (0.0, 18.0, "middle")),
}


@dataclass(frozen=True, slots=True)
class Trace:
    """The two lines of the chart in (x px, volts), and the steps worth a label."""

    positive: tuple[tuple[float, float], ...]
    negative: tuple[tuple[float, float], ...]
    drops: tuple[tuple[float, float, float, str], ...]  # x, volts there, 1 above or -1 below, words
    shared_axis: bool
    why: str


def trace(picture: Picture, supply: SupplyResult) -> Trace | None:
    """The loop as two lines over the car's axis; None while nothing is solved."""
    results = picture.evaluation.results
    source_v, runs = supply.source_v, [results.runs[link.id].points for link in supply.way]
    if not supply.segments or supply.is_main or source_v is None or not all(runs):
        return None
    upright = picture.frame.upright
    shared = all(follows_axis(points, picture.frame.length_m) for points in runs if points)
    first, last = (40.0, picture.frame.height_px - 90.0) if upright else (_LEFT, _RIGHT - 130)
    at_terminal = next(i for i, s in enumerate(supply.segments) if s.place is Place.POSITIVE)
    out, back = supply.segments[: at_terminal + 1], supply.segments[at_terminal + 1 :]
    total = sum(_length(points) for points in runs if points) or 1.0
    drops: list[Drop] = []
    positive: list[tuple[float, float]] = []
    volts, passed = source_v, 0.0
    for link, points in zip(supply.way, runs, strict=True):
        drop = {s.place: s.drop_v for s in out if s.link_id == link.id}
        if points is None:
            return None
        before = first + (last - first) * passed / total
        along = first + (last - first) * (passed + _length(points)) / total
        xs = [picture.frame.at(*p)[upright] for p in points] if shared else _spread(points, before, along)
        line = _positive(picture, supply, link.id, points, xs, volts, drop, drops)
        positive += line
        volts, passed = line[-1][1], passed + _length(points)
    return Trace(
        tuple(positive),
        _negative(picture, supply, back, positive[-1][0], shared, positive[0][0], drops),
        tuple(drops),
        shared,
        _why(shared),
    )


Points = tuple[tuple[float, float], ...]
Drop = tuple[float, float, float, str]


def _length(points: Points) -> float:
    return sum(hypot(b[0] - a[0], b[1] - a[1]) for a, b in zip(points, points[1:], strict=False))


def _spread(points: Points, start: float, end: float) -> list[float]:
    """Places between two ends by length along the run."""
    whole = _length(points) or 1.0
    return [start + (end - start) * _length(points[: i + 1]) / whole for i in range(len(points))]


def _positive(
    picture: Picture, supply: SupplyResult, link_id: str, points: Points, xs: list[float], start_v: float,
    drop: dict[Place, float],
    drops: list[Drop],
) -> list[tuple[float, float]]:  # fmt: skip
    """One run of the positive side: its joint, its fuse where it sits, the wire by length, and the terminal at its
    end.
    """
    link = next(k for k in supply.way if k.id == link_id)
    ends = {e.id.rsplit("/", 1)[1]: e.drop_v for e in supply.segments if e.link_id == link_id}
    joint, end_drop = ends.get("post", ends.get("out", 0.0)), ends["terminal"]
    run_v, fuse_v = drop[Place.RUN], drop.get(Place.FUSE, 0.0)
    line = [(xs[0], start_v), (xs[0], start_v - joint)]
    whole = _length(points) or 1.0
    fuse_m = ((link.fuse.from_source_m.value or 0.0) if link.fuse else 0.0) / whole
    fused = Place.FUSE not in drop
    for i in range(1, len(xs)):
        share, last = _length(points[: i + 1]) / whole, _length(points[:i]) / whole
        if not fused and (share >= fuse_m or i == len(xs) - 1):
            part = min(1.0, max(0.0, (fuse_m - last) / (share - last))) if share > last else 0.0
            x = xs[i - 1] + part * (xs[i] - xs[i - 1])
            at = start_v - joint - run_v * (last + part * (share - last))
            line += [(x, at), (x, at - fuse_v)]
            drops.append((x, at - fuse_v / 2, 1, f"fuse {amount(fuse_v, 'v')}"))
            fused = True
        line.append((xs[i], start_v - joint - (fuse_v if fused else 0.0) - run_v * share))
    line.append((xs[-1], line[-1][1] - end_drop))
    words = "positive run" if link is supply.way[-1] else "main run"
    drops.append(((xs[0] + xs[-1]) / 2, start_v - joint - fuse_v - run_v / 2, 1, f"{words} {amount(run_v, 'v')}"))
    return line


def _negative(
    picture: Picture, supply: SupplyResult, back: tuple[Segment, ...], amp_x: float, shared: bool, battery_x: float,
    drops: list[Drop]
) -> Points:  # fmt: skip
    """The way back: the lead, the ring, the body, the strap."""

    def lost(*places: Place) -> float:
        return sum(s.drop_v for s in back if s.place in places)

    body, strap, lead = lost(Place.BODY), lost(Place.STRAP), lost(Place.LEAD, Place.BLOCK)
    ground_point = strap + body + lost(Place.RING)
    top = ground_point + lead + lost(Place.NEGATIVE)
    point_x = amp_x + 60.0
    run = picture.evaluation.results.runs[supply.ground.id] if supply.ground else None
    if shared and run and run.points:
        point_x = picture.frame.at(*run.points[-1])[picture.frame.upright]
    drops.append((max(point_x, amp_x), ground_point + lead / 2, -1, f"ground lead {amount(lead, 'v')}"))
    drops.append(((battery_x + point_x) / 2, strap + body / 2, 2, f"body return {amount(body + strap, 'v')}"))
    return (
        (amp_x, top),
        (amp_x, ground_point + lead),
        (point_x, ground_point),
        (point_x, strap + body),
        (battery_x, strap),
        (battery_x, 0.0),
    )


def _why(shared: bool) -> str:
    return "" if shared else "drawn by length along the run: this run does not follow the car's length"


def grid_step_v(span: float) -> float:
    """Grid step in volts over a span in volts: about three lines."""
    for step in (0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0):
        if span / step <= 3.6:
            return step
    return 5.0


def faint_traces(picture: Picture, others: Sequence[SupplyResult], found: Trace) -> list[Trace]:
    """The loops of other consumers that can be drawn over the same axis."""
    traces = (trace(picture, other) for other in others)
    return [other for other in traces if other is not None and other.shared_axis is found.shared_axis]


def draw_volts(picture: Picture, supply: SupplyResult, top: float, others: Sequence[SupplyResult] = ()) -> Markup:
    """The chart below the plan, `top` px from the drawing's upper edge, the loops of others faint behind it; empty
    while nothing is solved.
    """
    found = trace(picture, supply)
    if found is None:
        return Markup("")
    faint = faint_traces(picture, others, found)
    source_v = max(one.positive[0][1] for one in (found, *faint))
    low_v = min(one.positive[-1][1] for one in (found, *faint))
    rise_v = max(one.negative[0][1] for one in (found, *faint))
    scale = min(_UP / max(source_v - low_v, 0.02), _DOWN / max(rise_v, 0.01))
    zero_y, top_y = top + CHART_HEIGHT - 22, top + 14

    def up(volts: float) -> float:
        return top_y + (source_v - volts) * scale

    def down(volts: float) -> float:
        return zero_y - volts * scale

    upper = [(x, up(v)) for x, v in found.positive]
    lower = [(x, down(v)) for x, v in found.negative]
    labels = LabelField(Box(_LEFT, top - 4, WIDTH - 6, top + CHART_HEIGHT))
    labels.line(upper, 7)
    labels.line(lower, 7)
    pieces = [_grid(source_v, low_v, rise_v, up, down)]
    pieces.append(el("path", d=path([*upper, (upper[-1][0], up(source_v)), upper[0]], close=True), class_="loss-red"))
    pieces.append(el("path", d=path([*lower, (lower[0][0], down(0))], close=True), class_="loss-ink"))
    for other in faint:
        pieces.append(el("path", d=path([(x, up(v)) for x, v in other.positive]), class_="trace-red faint"))
        pieces.append(el("path", d=path([(x, down(v)) for x, v in other.negative]), class_="trace-ink faint"))
    pieces.append(el("path", d=path(upper), class_="trace-red"))
    pieces.append(el("path", d=path(lower), class_="trace-ink"))
    if found.shared_axis:
        pieces.append(_droplines(picture, supply, found, up, down, top))
    pieces.append(_reading(supply, upper[-1], lower[0], labels))
    if (read := volts_read(picture.evaluation.results, supply.part.id)) is not None:
        pieces.append(_read_marks(read, found, up, down, labels))
    for x, volts, side, words in found.drops:
        y = up(volts) if side == 1 else down(volts)
        spots = [(x + dx, y + dy, anchor) for dx, dy, anchor in SPOTS[int(side)]]
        placed = labels.place(words, "lab", spots)
        pieces.append(label(placed.x, placed.y, words, "lab", "start", "paper-halo"))
    if found.why:
        pieces.append(label(_LEFT, top + CHART_HEIGHT + 6, found.why, "dim"))
    return group(pieces, class_="volts")


def _read_marks(
    read: ReadVolts, found: Trace, up: Callable[[float], float], down: Callable[[float], float], labels: LabelField
) -> Markup:
    """What a meter showed at the consumer, beside both lines: the plus by what was read across, the minus by the
    drop.
    """
    x, rise_v = found.negative[0][0], read.rise_v if read.rise_v is not None else found.negative[0][1]
    style, pieces = "measured-good" if read.good else "measured-off", []
    if read.rise_v is not None:
        y = down(min(rise_v, 2 * found.negative[0][1]))
        pieces.append(el("path", d=f"M{x - 13:.1f} {y:.1f}h26", class_=style))
    if read.across_v is not None:
        y = up(max(read.across_v + rise_v, 2 * found.positive[-1][1] - found.positive[0][1]))
        pieces.append(el("path", d=f"M{x - 13:.1f} {y:.1f}h26", class_=style))
    y = up(found.positive[-1][1])
    spots = [(x - 18, y + 24, "end"), (x - 18, y + 40, "end"), (x + 18, y - 12, "start")]
    placed = labels.place(read.words, "lab", spots)
    shown = "paper-halo" if read.good else "paper-halo bad"
    pieces.append(label(placed.x, placed.y, read.words, "lab", "start", shown))
    return group([el("title", read.words), *pieces], class_="measured")


def _grid(source_v: float, low_v: float, rise_v: float, up: object, down: object) -> Markup:
    pieces = []
    step = grid_step_v(source_v - low_v)
    count = int((source_v - low_v) / step + 1e-9) + 1
    for i in range(count):
        v = source_v - i * step
        y = up(v)  # type: ignore[operator]
        pieces.append(el("path", d=f"M{_LEFT:.1f} {y:.1f}H{_RIGHT:.1f}", class_="grid"))
        pieces.append(label(_LEFT - 6, y + 4, f"{v:.2f}" + (" V" if i == 0 else ""), "dim", "end"))
    for v in (0.0, step if step <= rise_v * 1.6 else 0.0):
        y = down(v)  # type: ignore[operator]
        if v:
            pieces.append(el("path", d=f"M{_LEFT:.1f} {y:.1f}H{_RIGHT:.1f}", class_="grid"))
        pieces.append(label(_LEFT - 6, y + 4, f"{v:.2f}", "dim", "end"))
    zero = down(0.0)  # type: ignore[operator]
    last = up(source_v - (count - 1) * step)  # type: ignore[operator]
    middle = (zero - 50 + last) / 2 + 12
    pieces.append(el("path", d=f"M{_LEFT:.1f} {zero:.1f}H{_RIGHT:.1f}", class_="zero"))
    pieces.append(el("path", d=f"M{_LEFT - 14:.1f} {middle:.1f}l9 -5m-9 12l9 -5", class_="break"))
    return group(pieces)


def _droplines(picture: Picture, supply: SupplyResult, found: Trace, up: object, down: object, top: float) -> Markup:
    """Dotted lines from the thing to its number."""
    things = picture.things
    lines = []
    ends = [
        (supply.battery_id, found.positive[0][0], down(0.0)),  # type: ignore[operator]
        (f"fuse-{supply.link.id}", None, None),
        (supply.part.id, found.positive[-1][0], down(found.negative[0][1])),  # type: ignore[operator]
    ]
    if supply.ground:
        ends.append((supply.ground.to_id, found.negative[2][0], down(found.negative[2][1])))  # type: ignore[operator]
    for thing_id, x, y in ends:
        box = things.get(thing_id)
        if box is None:
            continue
        if x is None:
            x = (box.left + box.right) / 2
            y = up(next((v for px, v in found.positive if abs(px - x) < 1.5), found.positive[0][1]))  # type: ignore[operator]
        lines.append(el("path", d=f"M{x:.1f} {max(box.bottom + 4, top - 60):.1f}V{y:.1f}"))
    return group(lines, class_="droplines")


def _reading(
    supply: SupplyResult, upper: tuple[float, float], lower: tuple[float, float], labels: LabelField
) -> Markup:
    voltage = supply.figures["voltage"].value
    x, y1, y2 = upper[0], upper[1] + 3, lower[1] - 3
    middle = (y1 + y2) / 2
    left = x + 100 > WIDTH
    side = (x - 12, "end") if left else (x + 12, "start")
    labels.block(Box(*((x - 110, middle - 26, x, middle + 28) if left else (x, middle - 26, x + 110, middle + 28))))
    return group(
        [
            el(
                "path",
                d=f"M{x:.1f} {y1:.1f}V{y2:.1f}M{x - 6:.1f} {y1:.1f}h12M{x - 6:.1f} {y2:.1f}h12",
                class_="reading",
            ),
            label(side[0], middle + 4, amount(voltage or 0.0, "v"), "number", side[1], "paper-halo"),
            label(side[0], middle + 20, "at the amplifier", "dim", side[1], "paper-halo"),
        ]
    )
