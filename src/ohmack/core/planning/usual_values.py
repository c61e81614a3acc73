"""Usual values for a part whose papers are silent: what is taken until somebody reads it, and said to be taken."""

from __future__ import annotations

from collections.abc import Collection
from math import floor
from typing import Any

from ohmack.core.document.amplifiers import AmplifierClass
from ohmack.core.document.policy import Policy
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.supply import amplifier_current_a, power_behind_fuses_w
from ohmack.core.reference import table

GUESSED = (
    "amplifier",
    "plug-in amplifier",
    "driver",
    "subwoofer",
    "powered subwoofer",
)  # kinds of which something is usual
RATED_AT_V, RATED_LOAD_OHM, STEP_W = 14.4, 4.0, 5.0  # as ratings are stated; a guess is rounded down


def usual_values(kind: str, typed: dict[str, Any], wanted: Collection[str], policy: Policy) -> dict[str, Any]:
    """What is usual for values of a part that nobody knows.

    Parameters:
        kind: the kind of part.
        typed: what is known of it, as its model names the fields.
        wanted: names of the fields that are empty.
        policy: the shop's, for efficiency and head-room.

    Returns:
        values by field; only those wanted and for which something is usual. An amplifier's power follows from its own
        fuses: no label's largest number is taken for it, and without fuses there is none. Of a powered subwoofer power
        and current follow from each other, both from its maker's fuse.

    Source: common practice.
    """
    try:
        found = _found(kind, typed, policy)
    except OutOfRange:  # what was typed is no value; its own field says so
        return {}
    return {name: value for name, value in found.items() if name in wanted}


def _found(kind: str, typed: dict[str, Any], policy: Policy) -> dict[str, Any]:
    found: dict[str, Any] = {}
    if kind in ("driver", "subwoofer"):
        found["power_rms_w"] = table("papers", kind)["power_rms_w"]
    elif kind in ("amplifier", "plug-in amplifier"):
        found = _of_an_amplifier(typed, policy)
    elif kind == "powered subwoofer" and typed.get("fuse_a"):
        found = _of_a_powered_subwoofer(typed, policy)
    return found


def _of_an_amplifier(typed: dict[str, Any], policy: Policy) -> dict[str, Any]:
    usual = table("papers", "amplifier")
    found = {name: usual[name] for name in ("lowest_load_ohm", "sensitivity_low_v", "sensitivity_high_v")}
    low_v, high_v = typed.get("sensitivity_low_v"), typed.get("sensitivity_high_v")
    if low_v is not None:
        found["sensitivity_high_v"] = max(low_v, found["sensitivity_high_v"])
    if high_v is not None:
        found["sensitivity_low_v"] = min(high_v, found["sensitivity_low_v"])
    fused_a = sum(typed.get("fuses_a", ()))
    found["terminal_area_max_mm2"] = next(area for upto_a, area in usual["terminals"] if fused_a <= upto_a)
    if fused_a:
        by_class = typed.get("amplifier_class") == AmplifierClass.AB
        efficiency = typed.get("efficiency") or (policy.efficiency_class_ab if by_class else policy.efficiency_class_d)
        channels = max(1, int(typed.get("channel_count") or 1) + int(typed.get("further_count") or 0))
        each_w = power_behind_fuses_w(fused_a, RATED_AT_V, efficiency, policy.fuse_headroom) / channels
        if each_w >= STEP_W:
            found["ratings"] = [{"load_ohm": RATED_LOAD_OHM, "power_w": STEP_W * floor(each_w / STEP_W)}]
    return found


def _of_a_powered_subwoofer(typed: dict[str, Any], policy: Policy) -> dict[str, Any]:
    efficiency, power_w = policy.efficiency_class_d, typed.get("power_rms_w")
    fused_a, headroom = typed["fuse_a"], policy.fuse_headroom
    drawn_a = typed.get("supply_current_a") or (
        fused_a * headroom if power_w is None else amplifier_current_a(power_w, efficiency, 0.0, True, RATED_AT_V)
    )
    behind_w = power_behind_fuses_w(drawn_a, RATED_AT_V, efficiency, 1.0)
    return {"supply_current_a": round(drawn_a, 1), "power_rms_w": STEP_W * floor(behind_w / STEP_W) or behind_w}
