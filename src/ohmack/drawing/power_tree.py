"""The power tree: branches as wide as the current in them, volts at every end."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from markupsafe import Markup

from ohmack.core.supply.power_tree import Node
from ohmack.core.wording import amount
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import cut_to, el, group, label, path, text_width

WIDTH, LEFT, RIGHT = 760.0, 14.0, 178.0  # RIGHT px are kept for the names of the last parts
LEAF_PX, BAR = 62.0, 8.0
MOST_PX, LEAST_PX = 30.0, 1.6  # the widest and the thinnest branch
ROW_PX, STEP_PX = 64.0, 30.0

Link = Callable[[str], str]


def draw_tree(roots: Sequence[Node], link: Link) -> tuple[Markup, Markup]:
    """The tree for a screen and for a phone; empty where nothing is fed."""
    if not roots:
        return Markup(""), Markup("")
    most_a = max(root.carried_a + sum(n.carried_a for n in root.behind if n.charges) for root in roots)
    scale = MOST_PX / max(most_a, 1.0)
    return _wide(roots, scale, link), _standing(roots, scale, link)


def _px(current_a: float, scale: float) -> float:
    return max(LEAST_PX, current_a * scale)


def _svg(pieces: Sequence[Markup], width: float, height: float) -> Markup:
    title = "Power tree: every branch as wide as its current at full level, car running"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} {height:g}", class_="drawing power-tree",
        role="group", aria_label=title,
    )  # fmt: skip


def _words(node: Node) -> tuple[str, str]:
    """(name, current and volts) of a thing."""
    parts = []
    if node.current_a is not None:
        parts.append(amount(node.current_a, "a"))
    if node.volts_v is not None:
        parts.append(amount(node.volts_v, "v"))
    return node.name, " · ".join(parts)


# -- lying: sources on the left -------------------------------------------------------------------------------------


def _wide(roots: Sequence[Node], scale: float, link: Link) -> Markup:
    depth = max(root.depth for root in roots)
    step = (WIDTH - LEFT - RIGHT) / max(depth, 1)
    pieces: list[Markup] = []
    names: list[Markup] = []
    top = 30.0
    for root in roots:
        _node(root, LEFT, top, step, scale, link, pieces, names)
        top += root.leaves * LEAF_PX + 10
    return _svg([*pieces, *names], WIDTH, top + 4)


def _node(
    node: Node, x: float, top: float, step: float, scale: float, link: Link, pieces: list[Markup], names: list[Markup]
) -> float:
    """Draw a thing and all behind it; gives the height of its middle."""
    middle = top + node.leaves * LEAF_PX / 2
    out = sum(_px(n.carried_a, scale) for n in node.behind)
    start = middle - out / 2
    place = top
    for child in node.behind:
        end = _node(child, x + step, place, step, scale, link, pieces, names)
        wide = _px(child.carried_a, scale)
        pieces.append(_band(x + BAR, start + wide / 2, x + step, end, wide, "charge" if child.charges else ""))
        if child.over:  # where the branch has become straight, on the side it does not come from
            up = end < start + wide / 2 - 1 and not child.behind
            y = end - wide / 2 - 6 if up else end + wide / 2 + 15
            names.append(label(x + step - 8, y, child.over, "dim", "end", "paper-halo"))
        start += wide
        place += child.leaves * LEAF_PX
    tall = max(out, _px(node.carried_a, scale), 16.0)
    bar = el("rect", x=x, y=middle - tall / 2, width=BAR, height=tall, rx=2.0, class_="bar")
    name, below = _words(node)
    name = cut_to(step - 2 * BAR if node.behind else RIGHT - BAR - 10, name, "lab")
    if not node.behind:
        lines = [(x + BAR + 8, middle - 2 if below else middle + 4, "start"), (x + BAR + 8, middle + 14, "start")]
    else:  # above what comes in, so that what goes out is free
        at_x, anchor = (x, "start") if not node.over else (x + BAR, "end")
        above = middle - tall / 2 - 8
        lines = [(at_x, above - 15 if below else above, anchor), (at_x, above, anchor)]
    words = [label(*lines[0][:2], name, "lab", lines[0][2], "paper-halo")]
    if below:
        words.append(label(*lines[1][:2], below, "dim", lines[1][2], "paper-halo"))
    names.append(el("a", bar, *words, href=link(node.path), class_="thing"))
    return middle


def _band(x1: float, y1: float, x2: float, y2: float, wide: float, kind: str) -> Markup:
    """A branch: level at both ends, as wide as its current."""
    bend = min(36.0, (x2 - x1) * 0.3)
    curve = f"C{x1 + bend:.1f} {y1:.1f} {x1 + bend * 0.6:.1f} {y2:.1f} {x1 + bend * 1.6:.1f} {y2:.1f}"
    d = f"M{x1:.1f} {y1:.1f}{curve}H{x2:.1f}"
    return el("path", d=d, class_=f"branch {kind}".strip(), stroke_width=wide)


# -- standing: one row a thing --------------------------------------------------------------------------------------


def _standing(roots: Sequence[Node], scale: float, link: Link) -> Markup:
    pieces: list[Markup] = []
    names: list[Markup] = []
    y = 26.0
    for root in roots:
        y = _row(root, 22.0, y, scale, link, pieces, names) + 6
    return _svg([*pieces, *names], NARROW, y)


def _row(node: Node, x: float, y: float, scale: float, link: Link, pieces: list[Markup], names: list[Markup]) -> float:
    """Draw a thing and, below it and farther in, all behind it; gives where the next one stands."""
    name, below = _words(node)
    room = NARROW - x - 24
    over = node.over if text_width(node.over, "dim") <= room else node.over.split(", ")[0]
    lines = [label(x + 14, y + 4, cut_to(room, name, "lab"), "lab", "start", "paper-halo")]
    rows = [w for w in (" · ".join(w for w in (over, below) if w),) if w]
    if rows and text_width(rows[0], "dim") > room:
        rows = [over, below]
    lines += [label(x + 14, y + 21 + 15 * n, words, "dim", "start", "paper-halo") for n, words in enumerate(rows)]
    bar = el("circle", cx=x, cy=y, r=6.0, class_="bar")
    names.append(el("a", bar, *lines, href=link(node.path), class_="thing"))
    after = y + ROW_PX + 15 * max(0, len(rows) - 1)
    inner = x + STEP_PX
    for child in node.behind:
        wide = _px(child.carried_a, scale) * 0.5
        line = path([(x, y), (x, after), (inner, after)])
        pieces.append(el("path", d=line, class_="branch charge" if child.charges else "branch", stroke_width=wide))
        after = _row(child, inner, after, scale, link, pieces, names)
    return after
