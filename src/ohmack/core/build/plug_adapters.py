"""Which plugs of the car the plan meets through an adapter, and whether there is one for each."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.factory import Module, Radio
from ohmack.core.document.harness import JointMethod
from ohmack.core.document.links import Pickup, TapLink
from ohmack.core.document.part import Phase
from ohmack.core.document.parts import Accessory, HeadUnit
from ohmack.core.fit.runs import plays_over_the_loom
from ohmack.core.harness.joints import Joint

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MEETS_THE_PLUG = ("adapter", "amplifier adapter")  # one of a works amplifier has the radio plug with it


def has_radio_adapter(design: Design) -> bool:
    """Whether a part is for the radio's plug; the adapter of a works amplifier is, where the car has one."""
    return any(part.category == "adapter" for part in design.parts_of(Accessory)) or _adapts_the_amplifier(design)


def _adapts_the_amplifier(design: Design) -> bool:
    """Whether the car has a works amplifier and the plan an adapter for it, which brings the radio's plug along."""
    return design.vehicle.works_amplified and any(part.is_amplifier_adapter for part in design.parts_of(Accessory))


def plugged_taps(design: Design) -> list[TapLink]:
    """The pickups this job makes through a plug adapter; a plug-in amplifier on the old one's plugs needs none."""
    taps = (t for t in design.new_links_of(TapLink) if t.method is Pickup.PLUG_ADAPTER)
    return [t for t in taps if not plays_over_the_loom(design, t)]


def plugs_met(design: Design) -> list[Radio | Module]:
    """Where the plan meets a plug of the car through an adapter: the radio's first, then tapped amplifiers.

    Parameters:
        design: the design.

    Returns:
        the radio and modules; each wants an adapter of its own. Source: common practice.
    """
    vehicle = design.vehicle
    tapped = {source.id: source for t in plugged_taps(design) for source in map(vehicle.source_of, t.from_ids)}
    unit = next(design.new_parts_of(HeadUnit), None)
    mapped = bool(vehicle.connectors) or _adapts_the_amplifier(design)
    joined = unit is not None and not design.radio_hidden and vehicle.has_known_plug and not mapped
    first: list[Radio | Module] = [vehicle.radio] if joined or vehicle.radio.id in tapped else []
    return [*first, *(source for source in tapped.values() if source is not vehicle.radio)]


def _to_meet(design: Design) -> tuple[list[Accessory], list[Radio | Module]]:
    """(the plug adapters this job puts in, the plugs that want one); the radio's has one that is in the car."""
    adapters = [part for part in design.parts_of(Accessory) if part.category == "adapter"]
    there = any(part.in_car for part in adapters)
    places = [place for place in plugs_met(design) if not (there and place is design.vehicle.radio)]
    return [part for part in adapters if not part.in_car], places


def adapters_at(design: Design) -> Iterator[tuple[Accessory, Radio | Module]]:
    """Every plug adapter this job puts in with the plug it goes on; one too many stays at the radio."""
    adapters, places = _to_meet(design)
    for number, adapter in enumerate(adapters):
        yield adapter, places[number] if number < len(places) else design.vehicle.radio


def missing_adapters(results: Results) -> tuple[tuple[TapLink, str], ...]:
    """The pickups that are to go through an adapter while none is among the parts, with the name of what they feed."""
    design = results.design
    adapters, places = _to_meet(design)
    bare = {source.id for source in places[len(adapters) :]}
    taps = (t for t in plugged_taps(design) if any(design.vehicle.source_of(c).id in bare for c in t.from_ids))
    names = {part.id: part.name for part in design.parts if part.kind != "plug-in amplifier"}  # it brings its plugs
    return tuple((link, names[link.to_id]) for link in taps if link.to_id in names)


def unplugged_joints(results: Results) -> list[Joint]:
    """The joints of a new radio to be made now through an adapter for the car's plug, while none is among the parts."""
    if has_radio_adapter(results.design):
        return []
    radios = {unit.id for unit in results.design.new_parts_of(HeadUnit)}  # of a pickup its link says how it is made
    joints = (joint for joint in results.joints.joints if joint.unit_id in radios and joint.phase is Phase.NOW)
    return [joint for joint in joints if joint.method is JointMethod.ADAPTER and not joint.in_car]
