"""What is fitted beside a way, for a wish the way itself hardly serves."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.design import Wish
from ohmack.core.document.factory import Tier
from ohmack.core.document.interventions import factory_amplifier, radio_there
from ohmack.core.document.parts import Driver, PoweredSubwoofer
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.factory.pickup_places import Pickup
from ohmack.core.factory.roles import SOUNDING, in_the_car
from ohmack.core.factory.way_acts import obstacle, way_of

ENOUGH = 0.4  # a goal served less than this is missed; common practice
FOR_WISH = {Wish.CLARITY: StrategyKey.DRIVER_SWAP, Wish.BASS: StrategyKey.POWERED_SUB}
FITTED = {StrategyKey.DRIVER_SWAP: Driver, StrategyKey.POWERED_SUB: PoweredSubwoofer}


def for_what(other: StrategyKey) -> str:
    """The goal for which a way is fitted beside another, in words."""
    return next(wish.value for wish, key in FOR_WISH.items() if key is other)


def chosen_bass(design: Design) -> bool:
    """Whether a person put a powered subwoofer into the plan that no way laid: it goes with any of them."""
    return any(sub.laid_by is None and not sub.in_car for sub in design.parts_of(PoweredSubwoofer))


def beside(design: Design, key: StrategyKey, taps: tuple[Pickup, ...]) -> tuple[StrategyKey, ...]:
    """The ways whose parts go beside one, each for a goal the customer has and the way hardly serves.

    Parameters:
        design: the design.
        key: the way.
        taps: where the signal could be taken from.

    Returns:
        none where the way serves no goal by itself; a radio where there was none serves every other. New speakers with
        a subwoofer stand under the subwoofer. New speakers alone bring little where a factory amplifier bends its sound
        to the old ones. Of the way that is chosen only what the plan has.
    """
    serves = way_of(key)["serves"]
    brings_a_radio = key is StrategyKey.NEW_RADIO and radio_there(design).tier.value is Tier.NONE
    served = brings_a_radio or any(float(serves[wish.value]) >= ENOUGH for wish in design.intake.goals)
    if key is StrategyKey.DRIVER_SWAP or not served:
        return ()
    there = {other for other, kind in FITTED.items() if any(isinstance(part, kind) for part in design.parts)}
    return tuple(
        other
        for wish, other in FOR_WISH.items()
        if wish in design.intake.goals and float(serves[wish.value]) < ENOUGH and other is not key
        and (design.strategy is not key or other in there)
        and not (wish is Wish.BASS and chosen_bass(design))
        and not (wish is Wish.CLARITY and factory_amplifier(design) is not None)
        and not all(in_the_car(design, role) for role in SOUNDING if role in way_of(other)["needs"])
        and (brings_a_radio or not obstacle(design, other, taps))
    )  # fmt: skip
