"""What the sheet of boxes shows: curves, proposals, cut sheets, and what there is to enter."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from markupsafe import Markup

from ohmack.core.box.cabin import cabin_length_m, proposed_for
from ohmack.core.box.circuit import JUDGED_FROM_HZ, SUBSONIC_DB, opens
from ohmack.core.box.cutting import CutSheet, centre_of_mass, cut_sheet
from ohmack.core.box.judged import BoxResult
from ohmack.core.box.proposals import Pipe, Proposal
from ohmack.core.box.sampled import Sample, samples
from ohmack.core.box.suits import suited_drivers
from ohmack.core.document.boxes import Box, VentShape
from ohmack.core.document.handles import at
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.box_limits import CABIN_SPREAD_DB, MOST_AIR_SPEED_M_S, cabin_gain_db
from ohmack.core.wording import amount, listed
from ohmack.drawing.box_curves import BOXED, charts_of
from ohmack.drawing.box_section import draw_box
from ohmack.drawing.car import NARROW
from ohmack.drawing.cut_plan import draw_cut_plan
from ohmack.drawing.frequency_chart import both_widths
from ohmack.web.car_picture import two_widths
from ohmack.web.fields import Field, field_of
from ohmack.web.page import Page

PAPERS = ("fs_hz", "qms", "qes", "qts", "vas_l", "sd_cm2", "xmax_mm", "le_mh", "mms_g", "displaced_l")


SHOWN = (
    ("reach_hz", "Reaches down to"), ("loudest_db", "Most at 40 Hz, 1 m, no cabin"),
    ("travel_mm", "The cone goes, one way"), ("travel_at_hz", "furthest at"), ("clean_w", "Takes everywhere"),
    ("hump_db", "Hump"), ("q", "Q"), ("vent_mm", "Each vent is long"), ("tuned_hz", "Tuned to"),
    ("air_speed_m_s", "Air in the vent"), ("full_level_v", "Volts at full level"),
    ("net_l", "Net volume by its size"),
)  # fmt: skip


@dataclass(frozen=True)
class BoxCard:
    """One box with everything about it."""

    result: BoxResult
    section: Markup
    curves: Markup
    cut: CutSheet | None
    cut_plan: Markup
    refused: str
    centre: tuple[float, float] | None
    proposals: tuple[Proposal, ...]
    fields: tuple[Field, ...]
    boards: tuple[Field, ...]
    papers: tuple[Field, ...]


class BoxesView:
    """Boxes for their page."""

    judged_from_hz = JUDGED_FROM_HZ
    subsonic_db = SUBSONIC_DB
    most_air_speed_m_s = MOST_AIR_SPEED_M_S
    cabin_spread_db = CABIN_SPREAD_DB

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results

    @cached_property
    def cards(self) -> list[BoxCard]:
        """Every box of the plan."""
        return [self._card(one) for one in self.results.boxes]

    @property
    def cabin_m(self) -> float | None:
        """The length the cabin's lift is reckoned by."""
        return cabin_length_m(self.page.design.vehicle)

    def openings(self, cut: CutSheet) -> str:
        """The openings of a front in words."""
        return listed([f"{one.words} {amount(one.diameter_mm, 'mm')}" for one in cut.openings])

    def shown(self, box: Box) -> list[tuple[str, str]]:
        """The figures of a box there are, by words and id."""
        return [(words, f"{box.id}/{key}") for key, words in SHOWN if f"{box.id}/{key}" in self.results.book.figures]

    @staticmethod
    def samples(one: BoxResult) -> tuple[Sample, ...]:
        """Its curves as a table."""
        return () if one.solved is None else samples(one.solved)

    @staticmethod
    def suits(box: Box) -> str:
        """The drivers a box suits, in words; empty where nothing can be said."""
        said = []
        for one in suited_drivers(box):
            resonance = "" if one.fs_hz is None else f" and fs about {one.fs_hz:.0f} Hz"
            said.append(f"Vas {one.vas_l:.0f} l, Qts {one.qts:.2f}{resonance}")
        return ", or ".join(said)

    def pipe(self, pipe: Pipe) -> str:
        """The vents of a proposal in words."""
        heard = "" if pipe.slow_enough else ", heard at full level"
        size = f"{pipe.count} × {amount(pipe.diameter_mm, 'mm')} pipe, {pipe.length_mm:.0f} mm long"
        return f"{size}; air {pipe.air_speed_m_s:.0f} m/s{heard}"

    def _card(self, one: BoxResult) -> BoxCard:
        design, box = self.page.design, one.box
        drawn, proposed = Markup(""), tuple[Proposal, ...]()
        if one.solved is not None:
            frequency = one.solved.plain.frequency_hz
            cabin = None if self.cabin_m is None else cabin_gain_db(frequency, self.cabin_m)
            charts = charts_of(one.solved, cabin)
            title = f"{one.name} over frequency"
            drawn = two_widths(*both_widths(charts, frequency, title, BOXED))
            proposed = proposed_for(design, one)
        sawn = cut_sheet(box, one.subs)
        sheet = sawn if isinstance(sawn, CutSheet) else None
        return BoxCard(
            one,
            draw_box(box, one.subs),
            drawn,
            sheet,
            two_widths(draw_cut_plan(sheet), draw_cut_plan(sheet, NARROW)) if sheet is not None else Markup(""),
            str(sawn) if isinstance(sawn, OutOfRange) else "",
            centre_of_mass(sheet, one.subs, box.mass_kg) if sheet is not None else None,
            proposed,
            self._fields(at(box), self._box_names(one)),
            self._fields(at(box), self._board_names(box)),
            self._fields(at(one.subs[0]), PAPERS) if one.subs else (),
        )  # fmt: skip

    def _box_names(self, one: BoxResult) -> tuple[str, ...]:
        box = one.box
        names = ["box_type", "net_volume_l"]
        if box.box_type == "bandpass":
            names.append("front_volume_l")
        if opens(box):
            sizes = ("diameter_mm",) if box.vents.shape is VentShape.ROUND else ("width_mm", "height_mm")
            names += ["tuning_hz", *(f"vents/{name}" for name in ("count", "shape", *sizes, "length_mm"))]
        if box.box_type == "passive radiator":
            names += [f"radiators/{name}" for name in ("count", "area_cm2", "mass_g", "air_l", "travel_mm")]
        if len(one.subs) > 1:
            names.append("chambers")
        return (*names, "stuffing")

    @staticmethod
    def _board_names(box: Box) -> tuple[str, ...]:
        own = ("boards/thickness_mm", "boards/material", "length_m", "width_m", "height_m")
        if box.box_type == "free air":
            return (*own, "boards/fronts", "mass_kg")
        top = () if box.boards.corners else ("boards/top_length_m",)
        return (*own, *top, "boards/corners", "boards/fronts", "boards/braces", "mass_kg")

    def _fields(self, base: str, names: tuple[str, ...]) -> tuple[Field, ...]:
        return tuple(field_of(self.page.design, f"{base}/{name}") for name in names)
