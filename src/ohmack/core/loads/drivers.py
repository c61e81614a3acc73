"""Who drives each speaker of the car under this plan: a new amplifier, the new radio, the factory system, or nobody
any more.
"""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.factory import Band, ChannelPlace, Module, Radio, RadioChannel, Tier
from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.interventions import OUT, STILL_THERE, interventions_of
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver, HeadUnit, Subwoofer
from ohmack.core.document.small_parts import CrossoverNet, SeriesCapacitor
from ohmack.core.document.vehicle import Speaker
from ohmack.core.loads.driven import own_tweeter
from ohmack.core.record import record

RADIO_PAIRS = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT, ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT)


@record
class Drive:
    """One speaker place: what drives it now, what did before, and whether a tweeter there is protected."""

    speaker: Speaker
    channel: RadioChannel | None
    source: Radio | Module | None
    driver: Driver | Subwoofer | None
    by_amplifier: bool
    by_new_radio: bool
    by_factory: bool
    capacitor: bool = False  # whether one is planned in line with it or its pair
    net: bool = False  # whether a crossover net parts it from a woofer on the same channel

    @property
    def driven(self) -> bool:
        """Whether anything drives it."""
        return self.by_amplifier or self.by_new_radio or self.by_factory

    @property
    def was_driven(self) -> bool:
        """Whether the car as found drives it."""
        return self.source is not None

    @property
    def tweeter(self) -> bool:
        """Whether it is a tweeter: the new driver's own kind, else what the car's own is."""
        if isinstance(self.driver, Subwoofer):
            return False
        if self.driver is not None:
            return self.driver.role == "tweeter"
        return own_tweeter(self.speaker, self.channel)

    @property
    def nominal_ohm(self) -> float | None:
        """The nominal impedance of what plays there [ohm]; of a subwoofer in the car's place that of the place."""
        return self.driver.impedance_ohm if isinstance(self.driver, Driver) else self.speaker.impedance_ohm.value

    @property
    def high_pass(self) -> bool | None:
        """Whether something keeps bass out of it: its own capacitor or crossover, or a factory output of the upper
        band.
        """
        upper = self.channel is not None and self.channel.band.value in (Band.HIGH, Band.MID_HIGH)
        if self.by_factory and upper:
            return True
        if self.capacitor or self.net:
            return True
        as_found = self.driver is None and (self.by_factory or self.by_new_radio)
        if as_found and not upper and self.speaker.tweeter and self.speaker.own_capacitor.value is None:
            return True  # it lives beside others on that pair, as the car was found
        if isinstance(self.driver, Subwoofer):
            return False
        if self.driver is not None:
            return self.driver.own_high_pass
        return self.speaker.own_capacitor.value


def _still_drives(source: Radio | Module, channel: RadioChannel, acts: dict[str, Intervention]) -> bool:
    """Whether the factory source still drives its pair under what happens to it."""
    act = acts.get(source.id)
    if act is None:
        return True
    if act.act is Act.BYPASSED:
        front = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT, ChannelPlace.CENTRE)
        return KeepAlive.CENTRE in act.keep_alive and channel.place in front
    return any(measure in STILL_THERE for measure in act.keep_alive) and act.act not in OUT


def nets_of(design: Design) -> tuple[frozenset[str], ...]:
    """The places every crossover net parts, by net."""
    return tuple(frozenset(part.at_ids) for part in design.parts_of(CrossoverNet) if len(part.at_ids) > 1)


def net_of(design: Design, place_id: str) -> CrossoverNet | None:
    """The crossover net that parts a place from others."""
    nets = (part for part in design.parts_of(CrossoverNet) if len(part.at_ids) > 1)
    return next((net for net in nets if place_id in net.at_ids), None)


def amplified_places(design: Design) -> frozenset[str]:
    """What an amplifier drives under the plan: the ends of its speaker cables, the place of the car a new subwoofer on
    one goes into, and what a crossover net hangs on the same channel.
    """
    wired = frozenset(link.to_id for link in design.links_of(SpeakerLink))
    own = frozenset(name for sub in design.parts_of(Subwoofer) if sub.id in wired for name in sub.at_ids)
    behind = (places for places in nets_of(design) if places & wired)
    return wired | own | frozenset[str]().union(*behind)


def drives_of(design: Design) -> tuple[Drive, ...]:
    """Every speaker place of the car with what drives it.

    Parameters:
        design: the design.

    Returns:
        one drive a speaker, in the survey's order.
    """
    vehicle = design.vehicle
    acts = {i.id: i for i in interventions_of(design)}
    moved = amplified_places(design)
    subs = [part for part in design.parts_of(Subwoofer) if part.at_ids]
    drivers: tuple[Driver | Subwoofer, ...] = (*design.parts_of(Driver), *subs)
    new = {name: part for part in drivers for name in part.at_ids}
    in_line = {name for part in design.parts_of(SeriesCapacitor) for name in part.at_ids}
    parted = frozenset[str]().union(*nets_of(design))
    unit = next(design.parts_of(HeadUnit), None)
    radio_out = vehicle.radio.tier.value is Tier.NONE or (
        vehicle.radio.id in acts and acts[vehicle.radio.id].act in OUT
    )
    channels = {c.id: (source, c) for source in vehicle.sources for c in source.channels}
    found = []
    for speaker in vehicle.speakers:
        source, channel = channels.get(speaker.channel_id or "", (None, None))
        amplified = speaker.id in moved
        by_radio = by_factory = False
        if source is not None and channel is not None and not amplified:
            if source is vehicle.radio and radio_out:
                by_radio = unit is not None and (channel.place is None or channel.place in RADIO_PAIRS)
            else:
                by_factory = _still_drives(source, channel, acts)
        held = speaker.id in in_line or (not amplified and speaker.channel_id in in_line)
        net = speaker.id in parted
        found.append(Drive(speaker, channel, source, new.get(speaker.id), amplified, by_radio, by_factory, held, net))
    return tuple(found)
