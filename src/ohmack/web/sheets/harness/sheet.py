"""The pin map."""

from __future__ import annotations

from ohmack.core.document import Basis
from ohmack.core.document.harness import CavityUse
from ohmack.core.wording import count
from ohmack.web.car_picture import draw_speakers_and_modules
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.harness.view import HarnessView


def say(page: Page) -> tuple[str, str]:
    """Connectors and pin maps."""
    connectors = page.design.vehicle.connectors
    if not connectors:
        return "No plug mapped yet", "wire identity decides every joint: map the radio's plug first"
    pins = [c for k in connectors for c in k.cavities if c.taken_for is not CavityUse.EMPTY]
    sure = sum(c.use.value is not None and c.use.basis is Basis.MEASURED for c in pins)
    unknown = sum(c.taken_for is None for c in pins)
    if unknown:
        rest = f"{unknown} not known"
    else:
        rest = "the rest from papers" if sure < len(pins) else "nothing from papers alone"
    small = f"{count(len(connectors), 'connector')}; {rest}"
    return f"{sure} of {count(len(pins), 'wire')} measured", small


SHEET = Sheet(
    key="harness",
    title="Harness",
    order=26,
    home="plan",
    tab="Harness",
    say=say,
    draw=draw_speakers_and_modules,
    view=HarnessView,
    extra=photos_and_history,
)
