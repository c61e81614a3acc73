"""What the survey's own sheets show: the questionnaire and modules, the baseline, the fits."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.document.handles import at
from ohmack.core.document.parts import Driver
from ohmack.core.factory.outputs import Pickup
from ohmack.core.factory.system import DONT_KNOW, TierVerdict
from ohmack.core.fit.clearances import FitResult
from ohmack.core.signal.pickups import TapDetails, tap_details
from ohmack.drawing.section import draw_section
from ohmack.drawing.steps import draw_steps
from ohmack.web.choices import options_of
from ohmack.web.fields import FactView, Field
from ohmack.web.page import Page

POSTS = ("post_resting_v", "post_cranking_v", "post_running_v", "post_loaded_v", "post_traffic_v", "standby_current_a")


@dataclass(frozen=True)
class FitView:
    """One fit with its picture, and the facts it rests on."""

    fit: FitResult
    picture: Markup
    facts: tuple[FactView, ...]


class SurveyView:
    """Views of the survey for templates."""

    dont_know = DONT_KNOW

    def __init__(self, page: Page) -> None:
        self.page = page

    @property
    def verdict(self) -> TierVerdict:
        """Where the questionnaire stands."""
        return self.page.evaluation.results.tier

    @property
    def taps(self) -> list[tuple[Pickup, TapDetails]]:
        """Every place the signal could be taken from, with what arrives there."""
        vehicle = self.page.design.vehicle
        return [(p, tap_details(vehicle, p)) for p in self.page.evaluation.results.pickups]

    @property
    def taken(self) -> bool:
        """Whether the verdict is what the fact says already."""
        fact = self.page.design.vehicle.radio.tier
        return fact.value is self.verdict.best[0] and (fact.basis.value != "assumed" or bool(fact.when))

    @property
    def module_options(self) -> list[tuple[str, str]]:
        """What a factory link may join."""
        return options_of(self.page.design, "joined")

    @property
    def link_kinds(self) -> tuple[tuple[str, str], ...]:
        """Kinds of factory link."""
        from ohmack.core.document.factory import FactoryLinkKind

        return tuple((kind.value, kind.value) for kind in FactoryLinkKind)

    def name_of(self, thing_id: str) -> str:
        """The name of a module, a feed or the radio."""
        return dict(self.module_options).get(thing_id, thing_id)

    @property
    def posts(self) -> list[FactView]:
        """Post voltages per state, standby current, ground."""
        smart = self.page.design.vehicle.supply.kind.value == "smart alternator"
        names = [name for name in POSTS if name != "post_traffic_v" or smart]
        paths = [f"vehicle/supply/{name}" for name in (*names, "battery_strap_ohm", "body_return_ohm")]
        return [self.page.fact(path) for path in paths]

    @property
    def steps_chart(self) -> Markup:
        """Level over volume step."""
        return draw_steps(self.page.evaluation.results.baseline)

    @property
    def variant_fields(self) -> list[tuple[str, str, list[Field]]]:
        """(path, name, fields) of every variant this car came in."""
        variants = self.page.design.vehicle.variants
        return [
            (
                at(v),
                v.name,
                [self.page.field(f"vehicle/variants/{v.id}/{n}") for n in ("name", "tier", "first_year", "last_year")],
            )
            for v in variants
        ]

    @property
    def fits(self) -> list[FitView]:
        """Every fit with its picture and facts."""
        design = self.page.design
        speakers = {speaker.id: speaker for speaker in design.vehicle.speakers}
        views = []
        for fit in self.page.evaluation.results.fits:
            if not fit.checks:
                continue
            part = design.part(fit.part_id)
            picture = Markup("")
            if isinstance(part, Driver) and fit.place_id in speakers:
                picture = draw_section(fit, part, speakers[fit.place_id])
            views.append(FitView(fit, picture, tuple(self._facts(fit))))
        return views

    def _facts(self, fit: FitResult) -> list[FactView]:
        """The facts of the car a fit rests on, each once."""
        paths: dict[str, None] = {}
        for check in fit.checks:
            for term in check.spare.inputs:
                if term.path.startswith("vehicle/"):
                    paths[term.path] = None
        return [self.page.fact(path) for path in paths]
