"""Papers made: which there are, what each shows, as HTML, PDF and drawing."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from importlib.resources import files
from typing import Any

from markupsafe import Markup

from ohmack.drawing.full_size import tiles
from ohmack.web.clock import today
from ohmack.web.frame import picture_of
from ohmack.web.leaflet import Pictures, pictures
from ohmack.web.page import Page
from ohmack.web.papers.pdf import pdf_of
from ohmack.web.papers.picture_style import on_paper, picture_alone
from ohmack.web.render import ENVIRONMENT

A4_MM, LETTER_MM = (210.0, 297.0), (215.9, 279.4)
EDGE_MM, HEAD_MM = 12.0, 60.0


def _of_templates(page: Page) -> dict[str, Any]:
    """Templates over as many sheets as they take."""
    width, height = _paper_mm(page)
    room = width - 2 * EDGE_MM, height - 2 * EDGE_MM - HEAD_MM
    return {"pieces": [(one, tiles(one, *room)) for one in page.evaluation.results.full_size]}


def _leaflet_pictures(page: Page) -> dict[str, Any]:
    made: Pictures = pictures(page.evaluation, standing=True)
    return {"pictures": made}


@dataclass(frozen=True)
class Paper:
    """One paper: the sheet it is of, its title, its template, what it shows besides."""

    sheet: str
    title: str
    template: str
    more: Callable[[Page], dict[str, Any]] = field(default=lambda _: {})


PAPERS = {
    "build": Paper("build", "Build sheet", "sheet.html"), "cuts": Paper("cuts", "Cut list", "sheet.html"),
    "routes": Paper("routes", "Routes", "sheet.html"), "order": Paper("order", "To order", "sheet.html"),
    "steps": Paper("steps", "Steps", "steps.html"), "labels": Paper("cuts", "Labels", "labels.html"),
    "proof": Paper("prove", "Proof", "proof.html"), "quote": Paper("quote", "Quote", "quote.html"),
    "templates": Paper("holes", "Templates at full size", "templates.html", _of_templates),
    "pack": Paper("pack", "Job pack", "pack.html"),
    "customer": Paper("leaflet", "Your car's sound", "customer.html", _leaflet_pictures),
    "next": Paper("car", "For the next installer", "next.html"),
}  # fmt: skip


def paper_pdf(page: Page, name: str, photos: Mapping[str, bytes] | None = None) -> bytes:
    """One paper as PDF.

    Parameters:
        page: the page of the sheet it is of.
        name: which paper.
        photos: pictures it shows besides, by name.

    Returns:
        the file.

    Raises:
        NoPapers: the system libraries that set type are missing.
    """
    made, photos = PAPERS[name], photos or {}
    html = ENVIRONMENT.get_template(f"papers/{made.template}").render(
        page=page, title=made.title, date=today(), style=_style(page), photos=list(photos), **made.more(page)
    )
    return pdf_of(str(on_paper(html)), photos)


def paper_svg(page: Page) -> str:
    """The drawing of a page's sheet by itself, with its style in it; empty where it has none."""
    return picture_alone(str(picture_of(page)))


def _paper_mm(page: Page) -> tuple[float, float]:
    return LETTER_MM if page.design.policy.length_unit == "ft" else A4_MM


def _style(page: Page) -> Markup:
    """The papers' style sheet, the paper's size, and whose page it is at the foot of every page."""
    sheet = (files("ohmack.web.papers") / "paper.css").read_text("utf-8")
    width, height = _paper_mm(page)
    said = f"{page.record.address}, revision {page.record.number}, {today()}"
    foot = 'font:8pt Barlow;content:"page " counter(page) " of " counter(pages)'
    return Markup(
        f"@page{{size:{width:g}mm {height:g}mm;margin:{EDGE_MM:g}mm {EDGE_MM:g}mm 15mm;"
        f'@bottom-left{{font:8pt Barlow;content:"{said}"}}@bottom-right{{{foot}}}}}\n{sheet}'
    )
