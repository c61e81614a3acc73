"""The job pack: everything on paper and in one file, and the signature it is handed over with."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ohmack.drawing.fuse_marks import draw_fuse_marks
from ohmack.drawing.picture import Layer, Picture
from ohmack.store.design_rows import DesignRecord
from ohmack.web.car_picture import Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Asked, Sheet
from ohmack.web.sheets.pack.view import PackView
from ohmack.web.workshop import Workshop


def say(page: Page) -> tuple[str, str]:
    """Who signed for what."""
    state = page.evaluation.results.hand_over
    if state.signature is None:
        return "Job pack", state.verdict if state.against else "not signed for yet"
    if not state.signed_stands:
        return f"Changed since {state.signature.by} signed", f"signed for revision {state.signature.revision}"
    return f"Signed for by {state.signature.by}", f"revision {state.signature.revision}, {state.signature.when}"


def draw(page: Page) -> Markup:
    """The car as built, every fuse by its number."""
    spots = page.evaluation.results.fuse_map

    def over(picture: Picture) -> Markup:
        return draw_fuse_marks(picture, spots)

    layer = Layer(links=("power", "ground", "speaker", "line"), quiet_links=("tap", "remote", "feed", "charge"),
                  speakers=True, labels=False)  # fmt: skip
    chart = Chart(lambda _: Markup(""), 0.0, over=over)
    return car_picture(page, layer, "as it was built, every fuse by its number", "as-built", chart)


def _packs(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    return {"pack": shop.packs.last(shop.context, record.design_id)}


SHEET = Sheet(
    key="pack", title="Job pack", order=82, home="handover", tab="Job pack", say=say, draw=draw, view=PackView,
    extra=_packs,
)  # fmt: skip
