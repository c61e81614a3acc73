"""What the page of the factory system shows."""

from __future__ import annotations

from ohmack.core.document import Basis
from ohmack.core.document.factory import Band, ChannelPlace, Module, Radio
from ohmack.core.document.handles import at
from ohmack.core.factory.pickup_places import Pickup
from ohmack.core.factory.system import DONT_KNOW, TierVerdict
from ohmack.core.factory.usual_speakers import SpeakerSet
from ohmack.core.planning.speaker_sets import main_source, sets_to_add, ways_of
from ohmack.core.signal.pickups import TapDetails, tap_details
from ohmack.web.choices import options_of
from ohmack.web.fields import Field
from ohmack.web.page import Page

PAIR_ROWS = 6  # typed in at once


class FactoryView:
    """The questionnaire, the modules and their links for their page."""

    dont_know = DONT_KNOW
    pair_rows = range(PAIR_ROWS)
    pair_places = tuple(place.value for place in ChannelPlace)
    pair_bands = tuple(band.value for band in Band)

    def __init__(self, page: Page) -> None:
        self.page = page

    @property
    def sets(self) -> list[tuple[SpeakerSet, tuple[str, ...]]]:
        """What the works may have fitted and is not on file, and how it may hang."""
        design = self.page.design
        return [(one, ways_of(design, one)) for one in sets_to_add(design)]

    @property
    def main_source(self) -> Radio | Module:
        """What the pairs of such speakers hang on."""
        return main_source(self.page.design)

    @property
    def free_speakers(self) -> list[tuple[str, str]]:
        """Speakers that hang on no pair on file, by id and name."""
        vehicle = self.page.design.vehicle
        known = {c.id for source in vehicle.sources for c in source.channels}
        return [(s.id, s.name) for s in vehicle.speakers if s.channel_id not in known]

    @property
    def verdict(self) -> TierVerdict:
        """Where the questionnaire stands."""
        return self.page.evaluation.results.tier

    @property
    def taps(self) -> list[tuple[Pickup, TapDetails]]:
        """Every place the signal could be taken from, with what arrives there."""
        return [(p, tap_details(self.page.design, p)) for p in self.page.evaluation.results.pickups]

    @property
    def taken(self) -> bool:
        """Whether the verdict is what the fact says already."""
        fact = self.page.design.vehicle.radio.tier
        return fact.value is self.verdict.best[0] and (fact.basis.value != "assumed" or bool(fact.when))

    @property
    def settled(self) -> bool:
        """Whether somebody looked and no question was answered: the odds of such cars in general say nothing then."""
        return self.page.design.vehicle.radio.tier.basis is not Basis.ASSUMED and not self.verdict.answered

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
