"""The measuring round: one fact at a time, the next best first, for a phone in the bay."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import quote

from markupsafe import Markup

from ohmack.core.evaluation.answer import Measure
from ohmack.drawing.car import HEIGHT, NARROW, upright_frame_of
from ohmack.drawing.picture import Layer, Mark, begin, picture_svg
from ohmack.drawing.plan import draw_plan
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page

SKIP = "skip:"


@dataclass(frozen=True)
class Round:
    """Where the round stands; `item` is None when nothing is left."""

    item: Measure | None
    left: int
    skipped: tuple[str, ...]
    picture: Markup
    skip_address: str

    @property
    def total(self) -> int:
        """How many facts matter, skipped ones included."""
        return self.left + len(self.skipped)


def skipped_in(show: str) -> tuple[str, ...]:
    """The facts put off in this round, from the page's `show` value."""
    return tuple(p for p in show.removeprefix(SKIP).split("|") if p) if show.startswith(SKIP) else ()


def measuring_round(page: Page) -> Round:
    """The next fact of the round on a swept page."""
    open_facts = page.evaluation.measure_first or ()
    known = {m.path for m in open_facts}
    skipped = tuple(p for p in skipped_in(page.show) if p in known)
    waiting = [m for m in open_facts if m.path not in skipped]
    item = waiting[0] if waiting else None
    again = SKIP + "|".join((*skipped, item.path)) if item else ""
    address = f"{page.address}/measure?show={quote(again, safe='/:|')}"
    return Round(item, len(waiting), skipped, _picture(page, item), address)


def _picture(page: Page, item: Measure | None) -> Markup:
    """The car with one mark: where this reading is taken."""
    if item is None:
        return Markup("")
    place = next((p for p in page.places if any(f.path == item.path for f in p.facts)), None)
    thing = place.thing_id if place else _thing_of(item.path)
    marks = (Mark(1, thing, "measured", item.path, f"Here: {item.name}"),)
    layer = Layer(
        quiet_links=("power", "ground"), speakers=True, feeds=True, marks=marks, labels=False, modules=True, damage=True
    )
    title = f"Where to read it: {place.title if place else item.owner}"
    lying = begin(page.evaluation, lambda _: "")
    frame = upright_frame_of(page.evaluation.results.design.vehicle, ROUND_PX, NARROW / 2)
    standing = begin(page.evaluation, lambda _: "", frame=frame)
    return two_widths(
        picture_svg([draw_plan(lying, layer)], HEIGHT, title, "round"),
        picture_svg([draw_plan(standing, layer)], frame.height_px, title, "round standing", frame.width_px),
    )


ROUND_PX = 120.0  # the width of a body that leaves room for the answer under it


def _thing_of(path: str) -> str:
    """The thing on the drawing a fact without a place of its own belongs to."""
    steps = path.split("/")
    if steps[0] == "links":
        return f"run-{steps[1]}"
    return steps[2] if steps[1] == "modules" else steps[1]
