"""What a plan does to the radio and the modules: what a person said, and what the plan's own parts mean by
themselves.
"""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Module, ModuleKind, Radio, Tier
from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.vehicle import Speaker

OUT = (Act.REMOVED, Act.REPLACED)
STILL_THERE = (KeepAlive.STAYS, KeepAlive.BOARD)


def factory_amplifier(design: Design) -> Module | None:
    """The factory amplifier that is not known to be absent."""
    of_kind = (m for m in design.vehicle.modules if m.kind is ModuleKind.AMPLIFIER and m.fitted.value is not False)
    return next(of_kind, None)


def speakers_of(design: Design, module: Module) -> list[Speaker]:
    """The speakers of the car that hang on a module's pairs."""
    pairs = {channel.id for channel in module.channels}
    return [speaker for speaker in design.vehicle.speakers if speaker.channel_id in pairs]


def _all_in(speakers: list[Speaker], names: set[str]) -> bool:
    """Whether there are some speakers, and all of them are named."""
    return bool(speakers) and names.issuperset(speaker.id for speaker in speakers)


def implied(design: Design) -> Iterator[tuple[Intervention, PartBase | None]]:
    """What the plan's parts do to modules nobody spoke of: (intervention, the part that does it).

    A new radio takes the old one's place, a plug-in amplifier that of the factory amplifier; an amplifier whose every
    speaker is driven anew is bypassed.
    """
    spoken = {i.id for i in design.interventions}
    vehicle = design.vehicle
    unit = next(design.parts_of(HeadUnit), None)
    if unit is not None and vehicle.radio.id not in spoken and vehicle.radio.tier.value is not Tier.NONE:
        yield Intervention(id=vehicle.radio.id, act=Act.REPLACED), unit
    plugged = next((a for a in design.parts_of(Amplifier) if a.plugs_in), None)
    old = factory_amplifier(design)
    if plugged is not None and old is not None and old.id not in spoken:
        yield Intervention(id=old.id, act=Act.REPLACED), plugged
    moved = {link.to_id for link in design.links_of(SpeakerLink)}
    for module in vehicle.modules:
        if not module.amplifies or module.id in spoken or (plugged is not None and module is old):
            continue
        if _all_in(speakers_of(design, module), moved):
            yield Intervention(id=module.id, act=Act.BYPASSED), None


def interventions_of(design: Design) -> tuple[Intervention, ...]:
    """Everything that happens to the radio and the modules under this plan.

    Parameters:
        design: the design.

    Returns:
        what a person said first, then what the plan's parts mean by themselves.
    """
    return (*design.interventions, *(intervention for intervention, _ in implied(design)))


def new_radio(design: Design) -> HeadUnit | None:
    """The radio of this job that plays in the old one's place, or where the car has none, so that what was read at the
    old one says nothing of it.

    Parameters:
        design: the design.

    Returns:
        the radio; None where there is none, where it is in the car already, or where the old one works on.
    """
    unit = next(design.new_parts_of(HeadUnit), None)
    if unit is None or design.radio_hidden:
        return None
    if design.vehicle.radio.tier.value is Tier.NONE:
        return unit
    acts = (i for i in interventions_of(design) if i.id == design.vehicle.radio.id)
    return unit if any(i.act in OUT for i in acts) else None


def silenced_before(design: Design) -> frozenset[str]:
    """The modules an amplifier of an earlier job plays in place of, by id: it hangs on their plugs, or drives every
    speaker they drove.
    """
    there = [amplifier for amplifier in design.parts_of(Amplifier) if amplifier.in_car]
    if not there:
        return frozenset()
    old, plugged = factory_amplifier(design), any(amplifier.plugs_in for amplifier in there)
    wired = {link.to_id for link in design.links_of(SpeakerLink) if link.in_car}
    return frozenset(
        module.id
        for module in design.vehicle.modules
        if (module is old and plugged) or (module.amplifies and _all_in(speakers_of(design, module), wired))
    )


def radio_there(design: Design) -> Radio:
    """The radio a job finds in the car: that of the works, or the one of an earlier job in its place or where there was
    none; on a ring it is the works radio's outputs that count.
    """
    radio = design.vehicle.radio
    if radio.tier.value in (None, Tier.RING) or design.radio_hidden:
        return radio
    unit = unit_there(design)
    return radio if unit is None else with_unit(radio, unit)


def unit_there(design: Design) -> HeadUnit | None:
    """The radio an earlier job put in; None where none did."""
    return next((unit for unit in design.parts_of(HeadUnit) if unit.in_car), None)


def with_unit(radio: Radio, unit: HeadUnit) -> Radio:
    """A car's radio once a bought one plays in its place: fitted later, with the line outputs of its papers."""
    return radio.model_copy(
        update={
            "tier": Fact(value=Tier.AFTERMARKET, basis=Basis.DOCUMENTED, note=f"{unit.name} is in it"),
            "line_pairs": Fact(value=unit.line_pairs or 0, basis=unit.basis, note=f"papers of {unit.name}"),
            "line_v": Fact(value=unit.line_v, basis=unit.basis) if unit.line_v else Fact(),
        }
    )


def comes_out(intervention: Intervention) -> bool:
    """Whether a module comes out for good: not one that works on out of sight, or of which a board stays."""
    stays = any(measure in STILL_THERE for measure in intervention.keep_alive)
    return intervention.act in OUT and not stays


def factory_amplifier_gone(design: Design) -> bool:
    """Whether the factory amplifier comes out, or is out, and draws nothing any more."""
    old = factory_amplifier(design)
    return old is not None and any(i.id == old.id and comes_out(i) for i in interventions_of(design))
