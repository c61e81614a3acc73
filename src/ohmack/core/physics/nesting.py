"""Panels on boards: rectangles sawn out of sheets by cuts that run from edge to edge, with the width of the saw."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from math import ceil

from ohmack.core.errors import OutOfRange, require
from ohmack.core.record import record

TRIES = 160  # ways that are tried, the same every time
FEW = 5  # panels of which every way is searched where fewer boards might do


@record
class Panel:
    """A rectangle to be sawn: `grain` True where its length has to lie along the board's."""

    name: str
    length_m: float
    width_m: float
    grain: bool = False


@record
class Placed:
    """A panel on a board: lower left corner and its sides along the board and across."""

    panel: Panel
    board: int
    x_m: float
    y_m: float
    along_m: float
    across_m: float


@record
class Nest:
    """All panels on as few boards as were found, and the share of them that is left over."""

    placed: tuple[Placed, ...]
    boards: int
    board_length_m: float
    board_width_m: float
    waste: float
    largest_rest_m2: float  # the largest rectangle that is left whole


@record
class _Free:
    board: int
    x: float
    y: float
    along: float
    across: float


def nest(panels: Sequence[Panel], board_length_m: float, board_width_m: float, saw_m: float) -> Nest:
    """Where every panel is sawn.

    Parameters:
        panels: rectangles, each once.
        board_length_m: of a board, along its grain [m].
        board_width_m: across it [m].
        saw_m: what a cut takes [m].

    Returns:
        their places, on the fewest boards found; among equals the one that leaves the largest rectangle whole.

    Raises:
        OutOfRange: no panel, or one larger than a board.

    Method: guillotine cuts, the tightest free rectangle first or the next one, either cut first, panel by panel, over
    many orders; of a few panels every way is searched where fewer boards might do. Not proved best beyond that.
    Source: guillotine packing: textbook; exact optimum on small cases in the tests.
    """
    require("panels", len(panels), "panels")
    require("board_length_m", board_length_m, "m")
    require("board_width_m", board_width_m, "m")
    for panel in panels:
        if not any(a <= board_length_m and b <= board_width_m for a, b in _ways(panel)):
            raise OutOfRange(panel.name, max(panel.length_m, panel.width_m), "m", "no larger than a board")
    best: tuple[tuple[int, float], Nest] | None = None
    least = sum(p.length_m * p.width_m for p in panels)
    for order, cuts, nexts in _tries(panels):
        found = _laid(order, board_length_m, board_width_m, saw_m, cuts, nexts)
        boards = 1 + max(p.board for p, _ in found[0])
        rest = max((f.along * f.across for f in found[1]), default=0.0)
        marks = (boards, -round(rest, 9))
        if best is None or marks < best[0]:
            whole = boards * board_length_m * board_width_m
            placed = tuple(p for p, _ in found[0])
            best = (marks, Nest(placed, boards, board_length_m, board_width_m, 1 - least / whole, rest))
    assert best is not None
    fewest = ceil(least / (board_length_m * board_width_m) - 1e-9)
    found_boards = best[1].boards
    while len(panels) <= FEW and found_boards > fewest:
        sawn = _all_on(tuple(panels), (), found_boards - 1, (board_length_m, board_width_m, saw_m))
        if sawn is None:
            break
        found_boards -= 1
        whole = found_boards * board_length_m * board_width_m
        rest = max((f.along * f.across for f in sawn[1]), default=0.0)
        best = (best[0], Nest(sawn[0], found_boards, board_length_m, board_width_m, 1 - least / whole, rest))
    return best[1]


def _all_on(
    panels: tuple[Panel, ...], free: tuple[_Free, ...], boards: int, sheet: tuple[float, float, float], used: int = 0
) -> tuple[tuple[Placed, ...], tuple[_Free, ...]] | None:
    """Every way of guillotine cuts searched for one that takes no more boards; None where there is none."""
    if not panels:
        return (), free
    length, width, saw = sheet
    fresh = (_Free(used, 0.0, 0.0, length, width),) if used < boards else ()
    tried: set[tuple[float, float]] = set()
    for n, panel in enumerate(panels):
        if (panel.length_m, panel.width_m) in tried:
            continue
        tried.add((panel.length_m, panel.width_m))
        for spot in (*free, *fresh):
            for a, b in dict.fromkeys(_ways(panel)):
                if a > spot.along + 1e-9 or b > spot.across + 1e-9:
                    continue
                others = tuple(one for one in free if one is not spot)
                for along_first in (True, False):
                    rest = (*others, *_pieces(spot, a, b, saw, along_first))
                    left = panels[:n] + panels[n + 1 :]
                    found = _all_on(left, rest, boards, sheet, used + (spot in fresh))
                    if found is not None:
                        return (Placed(panel, spot.board, spot.x, spot.y, a, b), *found[0]), found[1]
    return None


def _pieces(spot: _Free, a: float, b: float, saw: float, along_first: bool) -> list[_Free]:
    """What is left of a free rectangle once a panel is sawn out of its corner."""
    right, up = spot.along - a - saw, spot.across - b - saw
    if along_first:  # the first cut runs along the board above the panel
        pieces = ((spot.x + a + saw, spot.y, right, b), (spot.x, spot.y + b + saw, spot.along, up))
    else:
        pieces = ((spot.x + a + saw, spot.y, right, spot.across), (spot.x, spot.y + b + saw, a, up))
    return [_Free(spot.board, *piece) for piece in pieces if piece[2] > 1e-9 and piece[3] > 1e-9]


def _ways(panel: Panel) -> tuple[tuple[float, float], ...]:
    straight = (panel.length_m, panel.width_m)
    return (straight,) if panel.grain else (straight, straight[::-1])


def _tries(panels: Sequence[Panel]) -> Iterator[tuple[list[Panel], int, int]]:
    """(order, which panels are cut along the board first, which take the next best place), by the bits of a number."""
    every = (1 << len(panels)) - 1
    for key in (
        lambda p: (-p.length_m * p.width_m, p.name),
        lambda p: (-max(p.length_m, p.width_m), p.name),
        lambda p: (-min(p.length_m, p.width_m), p.name),
    ):
        for cuts in (every, 0):
            yield sorted(panels, key=key), cuts, 0
    for turn in range(1, TRIES):  # scattered, and the same every time
        keyed = sorted(range(len(panels)), key=lambda n: (n + 1) * turn * 7919 % 10007)
        order = [panels[n] for n in keyed]
        yield order, (every, 0, turn * 40503 >> 4 & every)[turn % 3], turn * 30011 >> 5 & every if turn % 2 else 0


def _laid(
    order: Sequence[Panel], length: float, width: float, saw: float, cuts: int, nexts: int
) -> tuple[list[tuple[Placed, int]], list[_Free]]:
    free: list[_Free] = []
    boards, laid = 0, []
    for turn, panel in enumerate(order):
        spots = [
            (min(f.along - a, f.across - b), k, a, b)
            for k, f in enumerate(free)
            for a, b in _ways(panel)
            if a <= f.along + 1e-9 and b <= f.across + 1e-9
        ]
        if not spots:
            free.append(_Free(boards, 0.0, 0.0, length, width))
            boards += 1
            a, b = min(
                ((a, b) for a, b in _ways(panel) if a <= length + 1e-9 and b <= width + 1e-9),
                key=lambda w: min(length - w[0], width - w[1]),
            )
            k = len(free) - 1
        else:
            _, k, a, b = sorted(spots)[1 if nexts >> turn & 1 and len(spots) > 1 else 0]
        spot = free.pop(k)
        laid.append((Placed(panel, spot.board, spot.x, spot.y, a, b), k))
        free += _pieces(spot, a, b, saw, bool(cuts >> turn & 1))
    return laid, free
