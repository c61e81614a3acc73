"""Which facts make sense for a thing of its kind, so that a camera is not asked for its speaker output."""

from __future__ import annotations

from pydantic import BaseModel

from ohmack.core.document.factory import Module
from ohmack.core.document.vehicle import Battery, BatteryRole, Speaker

FIT = ("cut_out_mm", "depth_mm", "window_depth_mm", "trim_clearance_mm", "adapter_ring_mm")
OUTPUT = ("source_voltage_v", "clip_step", "bridged", "tap_low_hz")
TRAITS = ("level", "band_split", "equalised", "load_sensing")
LEISURE = ("own_running_v", "own_resting_v", "cca_a", "capacity_ah", "cut_off_v")


def facts_asked(thing: BaseModel) -> tuple[str, ...] | None:
    """The facts to ask for, in order; None where all of them are."""
    match thing:
        case Module():
            if thing.amplifies:
                return ("fitted", *TRAITS, *(OUTPUT if thing.channels else ()))
            return ("fitted",)
        case Speaker():
            fit = FIT if thing.in_door else tuple(name for name in FIT if name != "window_depth_mm")
            return ("impedance_ohm", "takes_w", "dc_resistance_ohm", "own_capacitor", *fit)
        case Battery():
            return (
                LEISURE
                if thing.role is BatteryRole.LEISURE
                else ("cca_a", "capacity_ah", "own_running_v", "own_resting_v")
            )
        case _:
            return None
