"""What a kind of factory system usually has, where each usually sits; all of it assumed."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import AMPLIFIERS, Band, FactoryLinkKind, ModuleKind, Radio, Tier
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.vehicle import FEED_PATTERNS, FeedRole, Hand, SpeakerPlace, Vehicle
from ohmack.core.factory.pickup_places import LINE_OUTPUT
from ohmack.core.factory.system import DONT_KNOW
from ohmack.core.fit.places import PROPORTIONS

AMPLIFIER_KINDS = tuple(kind.value for kind in AMPLIFIERS)
PLAYS_THROUGH = {
    Tier.AMPLIFIED: ModuleKind.AMPLIFIER,
    Tier.RING: ModuleKind.AMPLIFIER,
    Tier.SUB_AMPLIFIER: ModuleKind.SUB_AMPLIFIER,
}  # what a kind of system plays through, beside its radio


def unsaid_amplifier(vehicle: Vehicle) -> ModuleKind | None:
    """The amplifier that the kind of system somebody found has, where nobody said yet whether and where it is.

    Parameters:
        vehicle: the car.

    Returns:
        its kind; None where it is on file (fitted or not), and where the kind of system is only assumed.
    """
    kind = PLAYS_THROUGH.get(vehicle.radio.tier.value) if vehicle.radio.tier.value is not None else None
    if kind is None or vehicle.radio.tier.basis is Basis.ASSUMED:
        return None
    return None if any(module.kind is kind for module in vehicle.modules) else kind


def _assumed(value: Any, *others: Any) -> dict[str, Any]:
    return {"value": value, "basis": "assumed", "alternatives": list(others)}


def _module(module_id: str, name: str, kind: ModuleKind, x_m: float, y_m: float, **more: Any) -> dict[str, Any]:
    place = {"x_m": round(x_m, 2), "y_m": round(y_m, 2)}
    return {
        "id": module_id,
        "name": name,
        "kind": kind.value,
        "position": place,
        "fitted": _assumed(True, False),
        **more,
    }


def _join(link_id: str, kind: FactoryLinkKind, from_id: str, to_id: str) -> dict[str, Any]:
    return {"id": link_id, "kind": kind.value, "from_id": from_id, "to_id": to_id, "carries": _assumed(True)}


def _amplifier_feed(x_m: float, y_m: float) -> dict[str, Any]:
    """What feeds a factory amplifier: live always, with a fuse of its own that nobody read yet."""
    return {
        "id": "factory-amp-feed", "name": "Factory amplifier's feed", "role": FeedRole.CONSTANT.value,
        "position": {"x_m": round(x_m, 2), "y_m": round(y_m, 2)},
        "live": _assumed(FEED_PATTERNS["constant"], FEED_PATTERNS["ignition"]),
        "limit_a": {"value": 20.0, "basis": "assumed", "low": 15.0, "high": 30.0},
    }  # fmt: skip


def modules_for(design: Design, tier: Tier) -> tuple[Edit, ...]:
    """Edits that lay in what a kind of factory system has and the car's model still lacks.

    Parameters:
        design: the design.
        tier: the kind of system.

    Returns:
        edits: modules, links, the works' subwoofer, and the door speakers moved to the channels that drive them.

    Source: common practice.
    """
    vehicle = design.vehicle
    typical = PROPORTIONS[vehicle.body]
    length_m = vehicle.length_m.value or typical.length_m
    half_m = (vehicle.width_m.value or typical.width_m) / 2
    passenger = -1 if vehicle.hand_of_drive is Hand.RIGHT else 1
    seat_m = min((*typical.seats, *typical.benches)) * length_m
    have = {module.id for module in vehicle.modules}
    modules: list[dict[str, Any]] = []
    links: list[dict[str, Any]] = []
    feeds: list[dict[str, Any]] = []
    moved: list[Edit] = []
    if tier in (Tier.AMPLIFIED, Tier.RING):
        channels = [
            {"id": f"amp-{c.id}", "name": f"{c.name}, amplified", "place": c.place.value if c.place else None,
             "band": _assumed(Band.FULL.value, Band.LOW_MID.value), "mix": c.mix.value}
            for c in vehicle.radio.channels
        ]  # fmt: skip
        modules.append(
            _module(
                "factory-amp", "Factory amplifier", ModuleKind.AMPLIFIER, seat_m + 0.24, passenger * 0.42 * half_m,
                channels=channels, source_voltage_v={"value": 18.0, "basis": "assumed", "low": 12.0, "high": 40.0},
                bridged=_assumed(True), tap_low_hz={"value": 30.0, "basis": "assumed", "low": 20.0, "high": 80.0},
                level=_assumed("follows the volume", "fixed"), band_split=_assumed(False, True),
                equalised=_assumed(True, False), load_sensing=_assumed(False, True),
            )
        )  # fmt: skip
        feeds.append(_amplifier_feed(seat_m + 0.30, passenger * 0.36 * half_m))
        links.append(_join("feed-factory", FactoryLinkKind.FEED, feeds[0]["id"], "factory-amp"))
        moved = [
            Edit(path=at(s, lambda it: it.channel_id), value=f"amp-{s.channel_id}")
            for s in vehicle.speakers
            if s.channel_id in {c.id for c in vehicle.radio.channels}
        ]
    if tier is Tier.RING:
        modules.append(_module("display", "Display unit", ModuleKind.DISPLAY, typical.dash * length_m - 0.12, 0.0))
        modules.append(
            _module(
                "gateway", "Bus gateway", ModuleKind.GATEWAY, typical.dash * length_m - 0.10, -passenger * 0.55 * half_m
            )
        )
        ring = ("radio", "display", "factory-amp")
        links += [
            _join(f"ring-{n}", FactoryLinkKind.RING, a, b)
            for n, (a, b) in enumerate(zip(ring, (*ring[1:], ring[0]), strict=True), start=1)
        ]
        links.append(_join("bus-1", FactoryLinkKind.BUS, "radio", "gateway"))
    elif tier is Tier.AMPLIFIED:
        links.append(_join("line-factory", FactoryLinkKind.ANALOGUE, "radio", "factory-amp"))
        if vehicle.radio.source_voltage_v.basis is Basis.ASSUMED:  # lines leave it, not speaker pairs
            moved.append(Edit(path=at_the(Radio, lambda it: it.source_voltage_v), value=LINE_OUTPUT))
    elif tier is Tier.SUB_AMPLIFIER:
        modules.append(
            _module(
                "factory-sub",
                "Factory subwoofer amplifier",
                ModuleKind.SUB_AMPLIFIER,
                0.86 * length_m,
                -0.6 * half_m,
                channels=[
                    {
                        "id": "sub-ch",
                        "name": "Factory subwoofer",
                        "place": "subwoofer",
                        "mix": "left and right summed",
                        "band": _assumed(Band.LOW.value),
                    }
                ],
                source_voltage_v={"value": 14.0, "basis": "assumed", "low": 9.0, "high": 20.0},
                bridged=_assumed(True),
                tap_low_hz={"value": 30.0, "basis": "assumed", "low": 20.0, "high": 80.0},
                equalised=_assumed(True, False),
                load_sensing=_assumed(False, True),
            )
        )
        links.append(_join("line-factory", FactoryLinkKind.ANALOGUE, "radio", "factory-sub"))
        spoken = {speaker.id for speaker in vehicle.speakers} | {s.channel_id for s in vehicle.speakers}
        if not spoken & {"spk-sub", "sub-ch"}:
            driver = {
                "id": "spk-sub",
                "name": "Factory subwoofer",
                "position": {"x_m": round(0.88 * length_m, 2), "y_m": round(-0.15 * half_m, 2)},
                "channel_id": "sub-ch",
                "place": SpeakerPlace.BOOT.value,
                "impedance_ohm": {"value": 4.0, "basis": "assumed", "alternatives": [2.0]},
            }
            moved.append(Edit(op="add", path=at_the(Vehicle, lambda it: it.speakers), value=driver))
    new = [m for m in modules if m["id"] not in have]
    if (seen := _box_seen(vehicle)) is not None:  # somebody looked already: it is not asked again
        new = [{**m, "fitted": seen} if m["kind"] in AMPLIFIER_KINDS else m for m in new]
    taken = {link.id for link in vehicle.factory_links} | {feed.id for feed in vehicle.feeds}
    if not new:
        return ()
    return (
        *(Edit(op="add", path=at_the(Vehicle, lambda it: it.modules), value=module) for module in new),
        *(
            Edit(op="add", path=at_the(Vehicle, lambda it: it.feeds), value=feed)
            for feed in feeds
            if feed["id"] not in taken
        ),
        *(
            Edit(op="add", path=at_the(Vehicle, lambda it: it.factory_links), value=link)
            for link in links
            if link["id"] not in taken
        ),
        *(moved if any(m["id"] in ("factory-amp", "factory-sub") for m in new) else ()),
    )


def _box_seen(vehicle: Vehicle) -> dict[str, Any] | None:
    """The fact that an amplifier box is there, where the questionnaire says it was seen."""
    said = next((a.answer for a in vehicle.answers if a.id == "box-found"), None)
    if said is None or said.value in (None, "none found", DONT_KNOW):
        return None
    return {**said.model_dump(mode="json"), "value": True}
