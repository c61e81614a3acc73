"""Coils on channels."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount, count, trimmed
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.loads.view import LoadsView


def say(page: Page) -> tuple[str, str]:
    """Loads."""
    load = next(iter(page.evaluation.results.loads), None)
    row = next(iter(page.evaluation.results.channel_loads), None)
    if load is None and row is not None and row.load.value is not None:
        worst = min(
            (r for r in page.evaluation.results.channel_loads if r.load.value is not None and r.lowest.value),
            key=lambda r: (r.load.value or 0.0) / (r.lowest.value or 1.0), default=row,
        )  # fmt: skip
        change = worst.change.value if worst.change else None
        small = (
            "a new place, nothing played here before"
            if change is None
            else "as before"
            if abs(change) < 0.05
            else f"{amount(abs(change), 'db')} {'more' if change > 0 else 'less'} than before, at equal voltage"
        )
        if (
            worst.load.value is not None
            and worst.lowest.value is not None
            and worst.load.value < worst.lowest.value * (1 - 1e-9)
        ):
            small = f"it wants {trimmed(round(worst.lowest.value, 2))} Ω or more"
        return f"{trimmed(round(worst.load.value or 0.0, 2))} Ω on {worst.name.lower()}", small
    if load is None:
        return "No driver on an amplifier yet", "pick both in Plan"
    loads = page.evaluation.results.loads
    if len(loads) > 1:
        total = sum(item.power.value or 0.0 for item in loads)
        low = next((item for item in loads if not item.unread and not item.chosen.permitted), None)
        small = (
            f"{low.channel_name}: {low.chosen.reason}"
            if low
            else "every output with what it drives, and what its wiring reads"
        )
        return f"{count(len(loads), 'output')}, {amount(total, 'w')} in all", small
    chosen = load.chosen
    if load.unread:
        return "Load not known", "it was wired before, and nobody said how: read the pair, choose what is there"
    if chosen.power_w is None:
        return f"{trimmed(chosen.load_ohm)} Ω will not do", chosen.reason
    return f"{trimmed(round(chosen.load_ohm, 2))} Ω, {amount(chosen.power_w, 'w')}", f"{chosen.words}: {chosen.reason}"


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    own = bool(page.evaluation.results.loads)  # what a new amplifier drives, else what the factory drives
    layer = Layer(speakers=True, grounds=False, modules=not own, parts=own, links=("speaker",) if own else ())
    return car_picture(page, layer, "with its speakers")


SHEET = Sheet(
    key="loads", title="Loads", order=30, tab="Coils on channels", say=say, draw=draw, view=LoadsView,
    main_figure="power_w",
)  # fmt: skip
