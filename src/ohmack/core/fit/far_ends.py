"""Where what a radio sees and hears by usually sits: a camera behind, a microphone before the driver, an aerial."""

from __future__ import annotations

from typing import Any

from ohmack.core.document.facts import Position
from ohmack.core.document.parts import Accessory
from ohmack.core.document.vehicle import Hand, Vehicle
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.reference import read_toml

AT_THE_TAIL_M = 0.06  # before the rear end
PILLAR_M, PILLAR_SIDE = 0.22, 0.62  # behind the dash's edge; share of half the width
WINDSCREEN_M, BESIDE_M = 0.10, 0.12  # before the dash's edge; beside the middle, clear of the passenger's airbag


def own_lead(part: object) -> dict[str, Any] | None:
    """What is on file for a part on a lead of its own to the radio; None for any other. Source: common practice."""
    if not isinstance(part, Accessory):
        return None
    found: dict[str, Any] | None = read_toml("own_leads")["kinds"].get(part.category)
    return found if isinstance(found, dict) else None


def far_end(vehicle: Vehicle, category: str) -> Position | None:
    """Where such a part usually sits [m]; None for what has no lead of its own. Source: common practice."""
    typical = PROPORTIONS[vehicle.body]
    length_m = vehicle.length_m.value or typical.length_m
    half_m = (vehicle.width_m.value or typical.width_m) / 2
    dash_m = typical.dash * length_m
    driver = -1 if vehicle.hand_of_drive is Hand.LEFT else 1
    match category:
        case "camera":
            return Position(x_m=round(length_m - AT_THE_TAIL_M, 2), y_m=0.0)
        case "microphone":
            return Position(x_m=round(dash_m + PILLAR_M, 2), y_m=round(driver * PILLAR_SIDE * half_m, 2))
        case "aerial":
            return Position(x_m=round(dash_m - WINDSCREEN_M, 2), y_m=-driver * BESIDE_M)
    return None
