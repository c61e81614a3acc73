"""What is wrong: symptoms, odds over everything that can be, and the check that decides most."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.figures.finding import Severity
from ohmack.core.wording import count, percent
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.probe_marks import draw_card
from ohmack.drawing.suspects import draw_suspects
from ohmack.web.car_picture import ALL_LINKS, Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.fault.view import FaultView


def say(page: Page) -> tuple[str, str]:
    """What is found, or what is likeliest."""
    search = page.evaluation.results.search
    if not search.begun:
        return "What is wrong?", "tick what is heard or seen; every reading of the proof counts too"
    if FaultView(page).nothing_on_file:
        return "What is in the car?", "nothing is on file that could be at fault"
    by_itself = [finding for finding, _ in FaultView(page).by_itself]
    if search.blind and not by_itself:
        return "Nothing on file would do that", FaultView(page).said_symptoms
    if search.found is not None:
        return f"Found {search.found.words}", f"{percent(search.found.odds)} of 100, by {_by(page)}"
    if search.stuck:
        return "Nothing tells these apart", f"{count(len(search.stuck), 'cause')} left, by {_by(page)}"
    stop = next((finding for finding in by_itself if finding.severity is Severity.STOP or search.blind), None)
    if stop is not None:  # of a search that is blind there are no odds to show: what is on file heads it
        return stop.title, f"that alone would bring it about, before any fault; {_by(page)}"
    first = search.suspects[0]
    return f"Most likely {first.words}", f"{percent(first.odds)} of 100; {_by(page)}"


def _by(page: Page) -> str:
    search, said = page.evaluation.results.search, len(page.design.proof.symptoms)
    return f"{count(len(search.evidence), 'reading')} and {count(said, 'symptom')}"


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    view = FaultView(page)
    now = view.now.check if view.now is not None else None

    def over(picture: Picture) -> Markup:
        return draw_suspects(picture, view.search, now)

    def card() -> Markup:
        return draw_card(page.design.vehicle, now) if now is not None else Markup("")

    chart = Chart(lambda _: Markup(""), 0.0, instead=card, over=over)
    layer = Layer(links=("power", "ground"), quiet_links=ALL_LINKS[2:], speakers=True, labels=False)
    return car_picture(page, layer, "what may be wrong, and how likely", "fault", chart)


SHEET = Sheet(key="fault", title="Find a fault", order=72, home="prove", tab="Find a fault", say=say, draw=draw,
              view=FaultView)  # fmt: skip
