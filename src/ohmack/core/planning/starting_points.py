"""Starting points: a new vehicle with everything still assumed, and the first revision of a job."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Basis, Design, Fact, Intake
from ohmack.core.document.factory import Band, ChannelPlace, Radio, RadioChannel, Tier
from ohmack.core.document.facts import Position, Verified
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import (
    FEED_PATTERNS,
    Battery,
    Body,
    Feed,
    FeedRole,
    GroundKind,
    GroundPoint,
    Hand,
    Passage,
    Powertrain,
    Speaker,
    SpeakerPlace,
    Supply,
    SupplyKind,
    SystemVoltage,
    Vehicle,
)
from ohmack.core.evaluation.sensitivity import fact_guide
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.planning.cabin import SEAT_AIRBAGS_FROM, typical_space, typical_zones
from ohmack.core.planning.works_places import FROM_THE_SKIN_M, SIZES, usual_hole
from ohmack.core.survey.ages import usual_of

TWO_DOORS = (Body.COUPE, Body.EXTENDED_CAB, Body.CONVERTIBLE)  # whose rear speakers sit in the side panels


def assumed(field: str, value: Any, low: Any = None, high: Any = None, **more: Any) -> Fact[Any]:
    """A fact nobody checked, with its range: the one given, else the plausible one on file."""
    guide = fact_guide(field)
    if low is not None:
        more |= {"low": low, "high": high}
    if "low" in guide and not more:
        more = {"low": min(guide["low"], value), "high": max(guide["high"], value)}
    return Fact[Any](value=value, basis=Basis.ASSUMED, how=Verified.NOT_CHECKED, **more)


def _works_speaker(corner: str, name: str, place: SpeakerPlace, position: Position) -> Speaker:
    """A speaker of the works in a usual hole, all of it assumed."""
    hole = usual_hole(place, corner[0] == "f")
    sizes = {field: getattr(hole, field) for field in SIZES}
    return Speaker(
        id=f"spk-{corner}",
        name=f"{name.capitalize()} {hole.word}",
        place=place,
        position=position,
        channel_id=f"ch-{corner}",
        size=hole.size,
        impedance_ohm=assumed("impedance_ohm", 4.0),
        takes_w=assumed("takes_w", 30.0, low=15.0, high=60.0),
        adapter_ring_mm=assumed("adapter_ring_mm", 0.0),
        **{field: assumed(field, *usual) for field, usual in sizes.items() if usual is not None},
    )


def new_vehicle(
    make: str,
    model: str,
    year: int | None,
    body: Body,
    hand: Hand,
    powertrain: Powertrain = Powertrain.COMBUSTION,
) -> Vehicle:
    """A car of which nothing is known yet: places and values typical for its body, every one assumed.

    Battery at the front left, radio in the middle of the dash, four door speakers, the usual three feeds; a hybrid has
    a converter as an electric car has, not an alternator. Source: common practice.
    """
    typical = PROPORTIONS[body]
    length_m, width_m, wheelbase_m = typical.length_m, typical.width_m, typical.wheelbase_m
    nose = typical.dash * length_m - 0.06
    side = width_m / 2 - FROM_THE_SKIN_M
    left = "vehicle left"
    electric, usual = powertrain is Powertrain.ELECTRIC, usual_of(year)
    converter = powertrain is not Powertrain.COMBUSTION  # it charges the 12 V side from the high voltage
    channels = [("fl", "front left"), ("fr", "front right")]
    if typical.rear_speaker is not None:
        channels += [("rl", "rear left"), ("rr", "rear right")]
    rear = typical.rear_speaker or typical.front_speaker
    bags = body is not Body.CART and (year is None or year >= SEAT_AIRBAGS_FROM)
    battery_y = -0.45 if body is not Body.CART else 0.22
    return Vehicle(
        make=make,
        model=model,
        year=year,
        body=body,
        hand_of_drive=hand,
        powertrain=powertrain,
        length_m=assumed("length_m", length_m, low=length_m - 0.3, high=length_m + 0.3),
        width_m=assumed("width_m", width_m, low=width_m - 0.1, high=width_m + 0.1),
        wheelbase_m=assumed("wheelbase_m", wheelbase_m, low=wheelbase_m - 0.2, high=wheelbase_m + 0.2),
        seat_airbags=assumed("seat_airbags", bags, alternatives=(not bags,)),
        supply=Supply(
            kind=SupplyKind.DC_DC if converter else SupplyKind.ALTERNATOR,
            batteries=(
                Battery(
                    id="battery",
                    name="Battery",
                    position=Position(x_m=typical.battery * length_m, y_m=battery_y),
                    cca_a=Fact(),
                ),
            ),
            system=(
                assumed(
                    "system",
                    SystemVoltage.PACK if body is Body.CART else SystemVoltage.V12,
                    alternatives=(SystemVoltage.V24, *usual.systems),
                )
                if body in (Body.CART, Body.VAN, Body.BUS)
                else assumed("system", SystemVoltage.V12, alternatives=usual.systems)
            ),
            positive_ground=assumed("positive_ground", False, alternatives=(True,) if usual.positive_ground else ()),
            post_running_v=Fact() if body is Body.CART else assumed("post_running_v", 14.2),
            post_resting_v=Fact() if body is Body.CART else assumed("post_resting_v", 12.6),
            alternator_rating_a=(
                Fact() if converter or body is Body.CART else assumed("alternator_rating_a", *usual.alternator_a)
            ),
            dc_dc_limit_a=Fact(),
            car_draw_a=Fact() if electric or body is Body.CART else assumed("car_draw_a", *usual.draw_a),
            body_return_ohm=assumed("body_return_ohm", 0.0015),
            battery_strap_ohm=assumed("battery_strap_ohm", 0.0004),
        ),
        radio=Radio(
            position=Position(x_m=nose + 0.18, y_m=0),
            tier=assumed("tier", Tier.PLAIN, alternatives=(Tier.AMPLIFIED, *((Tier.RING,) if usual.ring else ()))),
            source_voltage_v=assumed("source_voltage_v", 9.2),
            bridged=assumed("bridged", True, alternatives=(False,)),
            tap_low_hz=assumed("tap_low_hz", 30.0),
            lowest_load_ohm=assumed("lowest_load_ohm", 4.0),
            channels=tuple(
                RadioChannel(
                    id=f"ch-{i}", name=name.capitalize(), place=ChannelPlace(name), band=assumed("band", Band.FULL)
                )
                for i, name in channels
            ),
        ),
        speakers=tuple(
            _works_speaker(
                i,
                name,
                SpeakerPlace.SIDE if i[0] == "r" and body in TWO_DOORS else SpeakerPlace.DOOR,
                Position(
                    x_m=(typical.front_speaker if i[0] == "f" else rear) * length_m,
                    y_m=(side if i[1] == "r" else -side),
                ),
            )
            for i, name in channels
        ),
        feeds=(
            Feed(
                id="radio-constant",
                name="Radio constant feed",
                role=FeedRole.CONSTANT,
                position=Position(x_m=nose + 0.2, y_m=-0.08),
                live=assumed("live", FEED_PATTERNS["constant"], alternatives=(FEED_PATTERNS["accessory"],)),
                limit_a=assumed("limit_a", 10.0, low=7.5, high=15.0),
            ),
            Feed(
                id="radio-switched",
                name="Radio switched feed",
                role=FeedRole.SWITCHED,
                position=Position(x_m=nose + 0.2, y_m=0.08),
                live=assumed(
                    "live",
                    FEED_PATTERNS["accessory"],
                    alternatives=(FEED_PATTERNS["ignition"], FEED_PATTERNS["constant"]),
                ),
                limit_a=assumed("limit_a", 0.5, low=0.3, high=1.0),
            ),
        ),
        ground_points=(
            GroundPoint(
                id="ground-rear",
                name=f"Stud in the rear, {left}",
                position=Position(x_m=typical.ground * length_m, y_m=-0.42),
                kind=assumed("kind", GroundKind.STUD, alternatives=(GroundKind.FACTORY_BOLT,)),
            ),
            GroundPoint(
                id="ground-radio",
                name="Radio ground bolt",
                position=Position(x_m=nose + 0.12, y_m=0.15),
                kind=assumed("kind", GroundKind.FACTORY_BOLT),
            ),
        ),
        zones=typical_zones(body, hand, powertrain, year),
        spaces=(typical_space(body, length_m, width_m),),
        passages=(
            Passage(
                id="bulkhead",
                name=f"Bulkhead grommet, {left}",
                position=Position(x_m=nose - 0.12, y_m=-(side - 0.05)),
                needs_drilling=assumed("needs_drilling", False, alternatives=(True,)),
            ),
        ),
    )


def new_design(title: str, vehicle: Vehicle, intake: Intake, policy: Policy) -> Design:
    """The first revision of a job."""
    return Design(title=title, vehicle=vehicle, intake=intake, policy=policy)
