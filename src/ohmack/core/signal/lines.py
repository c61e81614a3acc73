"""Line pairs: what the input they go into takes off, what the cable takes off the treble, what the grounds put in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import log10

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, LineLink
from ohmack.core.document.small_parts import LineIsolator
from ohmack.core.figures.figure import Book, Figure, Formula, Term, fixed, reference
from ohmack.core.fit.runs import Run
from ohmack.core.network.model import Place
from ohmack.core.physics.line_loading import cable_corner_hz
from ohmack.core.physics.signal_chain import dbv
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.levels import SignalResult
from ohmack.core.signal.loading import output_ohm_term
from ohmack.core.signal.ways import Way
from ohmack.core.supply.results import SupplyResult

CABLE_PF_M = 150.0  # of screened line cable, common practice
ALTERNATES = 0.1  # of what flows in a ground while nothing plays: alternator ripple; common practice
TRANSFORMER_DB = 60.0  # what a transformer rejects where its papers say nothing, common practice
QUIET_V = 1e-9  # below it nothing is heard, and it has no level in dB
GROUND_SIDE = frozenset((Place.NEGATIVE, Place.LEAD, Place.RING))

CABLE = Formula(
    "Its cable takes 3 dB off from", "hz", "1 / (2π (Z_out ∥ Z_in) C)", cable_corner_hz, PHYSICS
)  # fmt: skip
APART = Formula(
    "Its ground and the source's apart, full level", "v", "the ground side of its loop: Σ R × I",
    lambda *drops: sum(drops), PHYSICS,
)  # fmt: skip
HUM = Formula(
    "Hum in the line while nothing plays, at most", "dbv",
    "20 log₁₀(apart × I_idle / I_full × share that alternates) − what is rejected",
    lambda apart, idle, full, share, rejected: 20 * log10(max(apart * idle / full * share, QUIET_V)) - rejected,
    PRACTICE,
)  # fmt: skip
OVER_HUM = Formula(
    "Signal over hum at the top volume", "db", "20 log₁₀ V_in − hum", lambda v, hum: dbv(v) - hum, PHYSICS
)


@record
class LineResult:
    """One way's line: loading and cable where the impedances are on file, ground and hum where the supply is known."""

    way: Way
    line: LineLink
    loading: Figure | None
    cable: Figure | None
    apart: Figure | None
    hum: Figure | None
    over_hum: Figure | None
    rejected_by: str  # what keeps the grounds apart, in words; empty where nothing does


def compute_lines(
    book: Book, runs: Mapping[str, Run], signals: Sequence[SignalResult], supplies: Sequence[SupplyResult]
) -> list[LineResult]:
    """Every way's line into an amplifier.

    Parameters:
        book: the book of the design.
        runs: all runs, for the cable's length.
        signals: the ways with their levels.
        supplies: the loops of their amplifiers.

    Returns:
        one entry a line.

    Source: circuit theory; shares and what is rejected without papers: common practice, no source.
    """
    isolators = {part.in_line_id: part for part in book.design.parts_of(LineIsolator)}
    fed = {supply.part.id: supply for supply in supplies}
    return [
        _line(book, runs, signal, signal.way.line, fed.get(signal.amplifier.id), isolators.get(signal.way.line.id))
        for signal in signals
        if signal.way.line is not None and isinstance(signal.amplifier, Amplifier)
    ]


def _line(
    book: Book,
    runs: Mapping[str, Run],
    signal: SignalResult,
    line: LineLink,
    supply: SupplyResult | None,
    isolator: LineIsolator | None,
) -> LineResult:
    way, cable = signal.way, None
    gives, run = output_ohm_term(book, way), runs.get(line.id)
    part = way.amplifier
    if gives is not None and isinstance(part, Amplifier) and part.input_ohm is not None and run is not None:
        takes = book.part(part, lambda it: it.input_ohm, "line input impedance", "ohm")
        capacitance = reference("capacitance a metre", CABLE_PF_M, "pF", PRACTICE)
        cable = book.figure(f"{line.id}/cable_hz", CABLE, gives, takes, run.length, capacitance)
    apart = _apart(book, way, line, supply)
    rejected, words = _rejected(book, way, isolator)
    hum = over = None
    if apart is not None and isinstance(part, Amplifier) and supply is not None:
        idle = book.part(part, lambda it: it.idle_current_a, "idle current", "a")
        share = reference("share that alternates", ALTERNATES, "", PRACTICE)
        hum = book.figure(f"{line.id}/hum_dbv", HUM, apart, idle, supply.figures["current"], share, rejected)
        over = book.figure(f"{line.id}/over_hum_db", OVER_HUM, signal.figures["arrives"], hum)
    return LineResult(way, line, signal.loading, cable, apart, hum, over, words)


def _apart(book: Book, way: Way, line: LineLink, supply: SupplyResult | None) -> Figure | None:
    """How far the amplifier's ground is from its source's at full level; the body only where they stand apart."""
    if supply is None or not supply.segments:
        return None
    current = supply.figures["current"].term
    stud = supply.ground.to_id if supply.ground is not None else ""
    source_stud = next(
        (k.ground_point_id for k in book.design.links_of(FeedLink) if way.converter and k.to_id == way.converter.id),
        None,
    )
    counted = GROUND_SIDE if stud and source_stud == stud else GROUND_SIDE | {Place.BODY}
    drops = [segment.lost(current) for segment in supply.segments if segment.place in counted]
    return book.figure(f"{line.id}/grounds_apart_v", APART, *drops) if drops else None


def _rejected(book: Book, way: Way, isolator: LineIsolator | None) -> tuple[Term, str]:
    """(how much of the difference is rejected [db], by what in words)."""
    part, converter = way.amplifier, way.converter
    if isolator is not None:
        return reference(f"{isolator.name}, a transformer", TRANSFORMER_DB, "db", PRACTICE), isolator.name
    if converter is not None and converter.principle == "transformers":
        return reference(f"{converter.name}, a transformer", TRANSFORMER_DB, "db", PRACTICE), converter.name
    if isinstance(part, Amplifier) and part.common_mode_db is not None:
        words = f"{part.name}'s differential input"
        return book.part(part, lambda it: it.common_mode_db, "its input rejects", "db"), words
    path = at(part, lambda it: it.common_mode_db) if isinstance(part, Amplifier) else ""
    return fixed("rejected: nothing is on file", 0.0, "db", path), ""
