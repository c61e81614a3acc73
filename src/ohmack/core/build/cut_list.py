"""Every cable to cut with its number, and which reel it comes off; what is to be bought by the metre."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import TYPE_CHECKING

from ohmack.core.build.line_cables import lines_laid
from ohmack.core.build.lists import OWN_CABLE, SCREENED, WireRow
from ohmack.core.document.parts import CableReel, LineCable
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.conductors import CCA
from ohmack.core.physics.stock_cutting import cut_from
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class Cable:
    """A cable of the wire list with the number both its ends are labelled by."""

    number: str
    row: WireRow
    pieces: int  # single wires of that length

    @property
    def size(self) -> str:
        """Its size, however many lie side by side."""
        return self.row.size.partition(" × ")[0]

    @property
    def of(self) -> tuple[str, bool, str]:
        """What it is cut from: size, whether clad aluminium, colour."""
        return self.size, self.row.clad, self.row.colour

    @property
    def whole_m(self) -> float | None:
        """Metres of wire in it [m]."""
        return None if self.row.length_m is None else self.row.length_m * self.pieces


@record
class Piece:
    """One piece that is cut."""

    cable: Cable
    length_m: float


@record
class FromReel:
    """A reel with what is cut off it, and what stays on it."""

    reel: CableReel
    pieces: tuple[Piece, ...]

    @property
    def left_m(self) -> float:
        """What stays on it [m]."""
        return float(self.reel.on_reel_m) - sum(p.length_m for p in self.pieces)


@record
class CutList:
    """All cables, the reels of the plan, and what no reel is left for."""

    cables: tuple[Cable, ...]
    reels: tuple[FromReel, ...]
    to_buy: tuple[Piece, ...]
    unknown: tuple[Cable, ...]  # without a size or a length yet
    ready: tuple[tuple[LineCable, Cable], ...] = ()  # line cables bought with their plugs on: nothing is cut


def is_cut_from(reel: CableReel, size: str, clad: bool, colour: str, colours: Collection[str]) -> bool:
    """Whether a wire may be cut from a reel.

    Parameters:
        reel: the reel.
        size: of the wire, as the wire list says it.
        clad: whether it is of clad aluminium.
        colour: of the wire.
        colours: of all wires that are cut.

    Returns:
        whether size, metal and colour are the same; a reel of no colour, or of one no wire has, goes for any.
    """
    same = reel.wire_size.replace("mm2", "mm²") == size and (reel.material == CCA) == clad
    return same and (reel.colour in ("", colour) or reel.colour not in colours)


def cut_list(results: Results) -> CutList:
    """The cut list of a plan.

    Parameters:
        results: the evaluated plan.

    Returns:
        the new cables of the wire list, numbered; reels of the same size, and of the same colour where theirs is
        stated, are used with the least opened.
    """
    cables = tuple(_numbered([row for row in results.wire_rows if not row.in_car]))
    known = [c for c in cables if c.row.size and c.row.length_m]
    made = {row.link_id: cable for cable, row in lines_laid(results).laid}
    ready = tuple((made[c.row.link_id], c) for c in known if c.size == SCREENED and c.row.link_id in made)
    laid = [c for _, c in ready]
    pieces = [
        Piece(c, float(c.row.length_m or 0.0))
        for c in known
        if c not in laid and c.size != OWN_CABLE
        for _ in range(c.pieces)
    ]
    reels = list(results.design.parts_of(CableReel))
    taken: dict[str, list[Piece]] = {reel.id: [] for reel in reels}
    bought: list[Piece] = []
    colours = {row.colour for row in results.wire_rows if not row.in_car}
    for key in dict.fromkeys(p.cable.of for p in pieces):
        wanted = [p for p in pieces if p.cable.of == key]
        fitting = [reel for reel in reels if is_cut_from(reel, *key, colours)]
        room = [float(r.on_reel_m) - sum(p.length_m for p in taken[r.id]) for r in fitting]
        open_ones = [(r, m) for r, m in zip(fitting, room, strict=True) if m > 0.01]
        try:
            cutting = cut_from([p.length_m for p in wanted], [m for _, m in open_ones])
        except OutOfRange:
            bought += wanted
            continue
        for (reel, _), numbers in zip(open_ones, cutting.from_reel, strict=True):
            taken[reel.id] += [wanted[n] for n in numbers]
        bought += [wanted[n] for n in cutting.short]
    from_reels = tuple(FromReel(reel, tuple(taken[reel.id])) for reel in reels)
    return CutList(cables, from_reels, tuple(bought), tuple(c for c in cables if c not in known), ready)


def _numbered(rows: Sequence[WireRow]) -> list[Cable]:
    found = []
    for n, row in enumerate(rows, 1):
        _, _, times = row.size.partition(" × ")
        found.append(Cable(f"C{n}", row, int(times) if times.isdigit() else 1))
    return found
