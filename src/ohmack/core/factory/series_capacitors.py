"""Capacitors in line with what a radio's outputs drive: which value, and where the corner comes out."""

from __future__ import annotations

from collections.abc import Sequence
from math import sqrt

from ohmack.core.document.parts import Driver
from ohmack.core.document.small_parts import SeriesCapacitor
from ohmack.core.document.vehicle import Speaker
from ohmack.core.factory.outputs import IN_PARALLEL, ChannelLoad, New, new_at, own_ohm
from ohmack.core.figures.figure import Book, Figure, Formula, reference
from ohmack.core.loads.driven import DC_TYPICAL, tweeter_at
from ohmack.core.loads.line_parts import tweeter_hz
from ohmack.core.physics.filters import corner_hz, nearest_preferred, series_capacitor_uf
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source, table
from ohmack.core.wording import listed

SOLD = Source("IEC 60063, series E12 (from memory)", Grade.STANDARD)
WANTED = Formula("Capacitor for it", "uf", "C = 1 / (2 π f Z)", series_capacitor_uf, PHYSICS)
NEAREST = Formula("Nearest value sold", "uf", "nearest of E12 by ratio", nearest_preferred, SOLD)
CORNER = Formula("High-pass by its capacitor", "hz", "f = 1 / (2 π Z C), at the nominal load", corner_hz, PHYSICS)
CORNER_DC = Formula(
    "The same at the DC resistance", "hz", "f = 1 / (2 π R C), the coil as its ohmmeter reads it",
    lambda z, share, uf: corner_hz(z * share, uf), PHYSICS,
)  # fmt: skip
PEAK = Formula("Peak across the capacitor", "v", "√2 × rms, all of it in the bass", lambda v: v * sqrt(2), PHYSICS)
SMALL_MM = 105.0  # a cut-out below it is no door woofer's: bass drives such a cone off its stops; common practice


@record
class LineCapacitor:
    """One output of small speakers: the capacitor it wants, and what the planned one does."""

    row: ChannelLoad
    part: SeriesCapacitor | None
    wanted_hz: float
    wanted: Figure
    nearest: Figure
    corner: Figure | None
    corner_dc: Figure | None
    peak: Figure | None = None  # what the planned one must stand
    alone: tuple[Speaker, ...] = ()  # the speakers it goes before, where others on the output keep their bass
    load: Figure | None = None  # what it sees
    tweeters: bool = False  # whether it goes before nothing else


def _small(row: ChannelLoad, drivers: New) -> dict[str, float]:
    """The small new drivers of an output that have no high-pass of their own, by place, with their cut-outs [mm].

    Tweeters are judged by a rule of their own, and have a crossover net as a rule.
    """
    return {
        speaker.id: part.cut_out_mm
        for speaker in row.speakers
        if isinstance(part := drivers.get(speaker.id), Driver)
        and part.role != "tweeter"
        and not part.own_high_pass
        and part.cut_out_mm < SMALL_MM
    }


def compute_line_capacitors(book: Book, rows: Sequence[ChannelLoad]) -> list[LineCapacitor]:
    """Every factory or radio output with small new speakers, or with a capacitor planned in line.

    Parameters:
        book: the book of the design.
        rows: what every output drives.

    Returns:
        the value the load wants, the nearest one sold, and the corner of the one that is planned, at the nominal
        load and at the DC resistance. Source: textbook circuit theory; corners by size common practice.
    """
    design = book.design
    drivers = new_at(design)
    planned = {name: part for part in design.parts_of(SeriesCapacitor) for name in part.at_ids}
    sizes = table("crossovers", "high_pass")
    found = []
    for row in rows:
        small, part = _small(row, drivers), planned.get(row.channel.id)
        held = tuple(s for s in row.speakers if s.id in planned)
        alone = held or tuple(s for s in row.speakers if s.id in small)
        if part is None and not alone:
            continue
        part = part or next((planned[s.id] for s in held), None)
        apart = bool(held) or (part is None and len(alone) < len(row.speakers))  # the others keep their bass
        size_mm = min((small[s.id] for s in alone if s.id in small), default=SMALL_MM)
        wanted_hz = float(next(hz for from_mm, hz in sizes["rows"] if size_mm >= from_mm))
        tweeters = all(tweeter_at(design, s.id) for s in alone or row.speakers)
        if tweeters:
            wanted_hz = tweeter_hz()
        scope, name = row.channel.id, row.channel.name
        load = row.load
        if apart:
            name = listed([s.name.lower() for s in alone])
            ohms = (own_ohm(book, s, drivers) for s in alone)
            load = book.figure(f"{scope}/small_ohm", IN_PARALLEL, *ohms, name=f"Load of {name}")
        term = reference("high-pass by the size of the speaker", wanted_hz, "hz", sizes["source"])
        wanted = book.figure(f"{scope}/wanted_uf", WANTED, load, term, name=f"Capacitor for {name}")
        nearest = book.figure(f"{scope}/sold_uf", NEAREST, wanted, name=f"Nearest value sold, {name}")
        corner = corner_dc = peak = None
        if part is not None:
            value = book.part(part, lambda it: it.capacitance_uf, "capacitor", "uf")
            corner = book.figure(f"{scope}/corner_hz", CORNER, load, value, name=f"High-pass of {name}")
            share = reference("DC resistance over nominal", DC_TYPICAL, "", PRACTICE)
            corner_dc = book.figure(
                f"{scope}/corner_dc_hz", CORNER_DC, load, share, value,
                name=f"High-pass of {name} at the DC resistance",
            )  # fmt: skip
            peak = book.figure(
                f"{scope}/capacitor_peak_v", PEAK, row.given, name=f"Peak across the capacitor of {name}"
            )
        found.append(
            LineCapacitor(
                row, part, wanted_hz, wanted, nearest, corner, corner_dc, peak, alone if apart else (), load, tweeters
            )
        )
    return found
