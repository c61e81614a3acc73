"""Prove: the check that is made now, where its probes sit, and the three gates."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.probe_marks import draw_card, draw_readings
from ohmack.web.car_picture import ALL_LINKS, Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.prove.view import ProveView


def say(page: Page) -> tuple[str, str]:
    """How far the proof is."""
    proof = page.evaluation.results.proof
    gate = proof.gate_now
    if not proof.checks:
        return proof.verdict, "parts, cables and speakers make checks"
    if gate is None:
        return proof.verdict, f"{count(len(proof.gates), 'gate')} behind"
    return proof.verdict, f"gate {gate.number}: {gate.title.lower()}, {count(len(gate.left), 'check')} left"


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    view = ProveView(page)
    now = view.now.check if view.now is not None else None

    def over(picture: Picture) -> Markup:
        return draw_readings(picture, view.proof.checks, now)

    def card() -> Markup:
        return draw_card(page.design.vehicle, now) if now is not None else Markup("")

    chart = Chart(lambda _: Markup(""), 0.0, instead=card, over=over)
    layer = Layer(links=("power", "ground"), quiet_links=ALL_LINKS[2:], speakers=True, labels=False)
    return car_picture(page, layer, "every check where it is made", "prove", chart)


SHEET = Sheet(key="prove", title="Prove", order=70, tab="Checks", say=say, draw=draw, view=ProveView)
