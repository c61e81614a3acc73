"""What is known about this car that speaks for or against a way: an adapter that failed here, what the speakers read,
what joins radio and amplifier, how it sounds, where an amplifier could go.
"""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.document import Basis, Design
from ohmack.core.document.cabin import AlterationKind, FailureCause, Space
from ohmack.core.document.design import Wish
from ohmack.core.document.factory import FactoryLinkKind, Level, Module, ModuleKind, Tier
from ohmack.core.document.handles import at
from ohmack.core.document.interventions import factory_amplifier
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Speaker
from ohmack.core.loads.nominals import nominal_of
from ohmack.core.record import record
from ohmack.core.wording import count, listed, trimmed

BOX_SPACE = "space-rear"  # where a box goes; any other space was found for an amplifier
LOW_OHM = 2.0  # what most amplifiers still permit; a speaker below it wants one made for it, common practice
MENDED = (FailureCause.SUPPLY, FailureCause.WAKE)  # what was wrong beside the adapter, and can be put right
KEEPS = (StrategyKey.RADIO_KEEP_AMPLIFIER,)
DRIVES_ANEW = (StrategyKey.RADIO_BYPASS, StrategyKey.REPLACE_AMPLIFIER)


@record
class Evidence:
    """One thing known about this car: which ways it bears on, which mark it moves by how much, and in words."""

    ways: tuple[StrategyKey, ...]
    criterion: str
    change: float
    words: str
    path: str


def digital_link(design: Design) -> bool:
    """Whether music reaches the factory amplifier over a ring or a bus, so that only a digital adapter speaks to it."""
    amplifier = factory_amplifier(design)
    if amplifier is None:
        return design.vehicle.radio.tier.value is Tier.RING
    links = [
        link.kind
        for link in design.vehicle.factory_links
        if amplifier.id in (link.from_id, link.to_id) and link.carries.value is not False
    ]
    if FactoryLinkKind.RING in links:
        return True
    wired = FactoryLinkKind.ANALOGUE in links or FactoryLinkKind.SPEAKER in links
    return not wired and design.vehicle.radio.tier.value is Tier.RING


def adapted_digitally(design: Design) -> tuple[StrategyKey, ...]:
    """The ways on which music goes through a digital adapter in this car."""
    return (*KEEPS, StrategyKey.REPLACE_AMPLIFIER) if digital_link(design) else ()


def low_ohm_speakers(design: Design) -> tuple[Speaker, ...]:
    """Speakers of the factory amplifier that read, or are said by their papers to be, below what amplifiers permit."""
    amplifier = factory_amplifier(design)
    own = {c.id for c in amplifier.channels} if amplifier is not None else set()
    return tuple(s for s in design.vehicle.speakers if s.channel_id in own and _known_ohm(s) < LOW_OHM)


def _known_ohm(speaker: Speaker) -> float:
    """The nominal impedance by reading or papers [ohm]; without end where it is only assumed."""
    if speaker.dc_resistance_ohm.value is not None:
        return nominal_of(speaker.dc_resistance_ohm.value)
    checked = speaker.impedance_ohm.basis is not Basis.ASSUMED
    return speaker.impedance_ohm.value if checked and speaker.impedance_ohm.value else float("inf")


def evidence(design: Design) -> tuple[Evidence, ...]:
    """Everything known about a car that speaks for or against a way.

    Parameters:
        design: the design.

    Returns:
        the evidence, in the order a customer would be told; empty where nothing was found out yet.

    Source: common practice; how much a thing weighs is ours.
    """
    amplifier = factory_amplifier(design)
    found = [*_failed_adapters(design)]
    if amplifier is not None:
        found += [*_sound(amplifier), *_low_ohm(design), *_link(design, amplifier), *_room(design)]
    return tuple(found)


def _failed_adapters(design: Design) -> Iterator[Evidence]:
    failed = [a for a in design.vehicle.alterations if a.kind is AlterationKind.FAILED_ADAPTER]
    adapted = adapted_digitally(design)
    if not failed or not adapted:
        return
    what = failed[0].name[0].lower() + failed[0].name[1:]
    cause = failed[0].cause.value
    if cause in MENDED and failed[0].cause.basis is not Basis.ASSUMED:
        words = f"The adapter that failed in this car ({what}) failed for {cause.value}: that can be mended first."
        yield Evidence(adapted, "robust", -0.1, words, at(failed[0], lambda it: it.cause))
        return
    yield Evidence(
        adapted, "robust", -0.4,
        f"An adapter failed in this car before ({what})"
        + (f", for {cause.value}: another may too." if cause else ": until it is known why, another may too."),
        at(failed[0], lambda it: it.cause),
    )  # fmt: skip
    yield Evidence(
        (StrategyKey.RADIO_BYPASS,), "robust", 0.05,
        f"It needs no adapter on the amplifier's line, where one failed in this car before ({what}).", at(failed[0]),
    )  # fmt: skip


def _sound(amplifier: Module) -> Iterator[Evidence]:
    path = at(amplifier, lambda it: it.sounds_right)
    if amplifier.sounds_right.value is True:
        yield Evidence(KEEPS, "sound", 0.25, f"{amplifier.name} sounds right to the customer: it stays as it is.", path)
        yield Evidence(
            DRIVES_ANEW, "sound", -0.2, f"{amplifier.name} sounds right as it is; nothing there asks to be replaced.",
            path,
        )  # fmt: skip
    elif amplifier.sounds_right.value is False:
        yield Evidence(KEEPS, "sound", -0.25, f"What is wrong with the sound of {amplifier.name} stays with it.", path)
        yield Evidence(DRIVES_ANEW, "sound", 0.1, f"What is wrong with the sound of {amplifier.name} goes.", path)


def _low_ohm(design: Design) -> Iterator[Evidence]:
    speakers = low_ohm_speakers(design)
    if not speakers:
        return
    least = min(_known_ohm(s) for s in speakers)
    names = listed([s.name.lower() for s in speakers[:3]]) + (" and more" if len(speakers) > 3 else "")
    said = f"{names} {'is' if len(speakers) == 1 else 'are'} about {trimmed(least)} Ω"
    yield Evidence(
        KEEPS, "robust", 0.1,
        f"The factory amplifier was made for its speakers: {said}, which most amplifiers do not permit.",
        at(speakers[0]),
    )  # fmt: skip
    yield Evidence(
        DRIVES_ANEW, "robust", -0.35,
        f"{said[0].upper()}{said[1:]}: a new amplifier must permit that, or new speakers come on top.", at(speakers[0]),
    )  # fmt: skip


def _link(design: Design, amplifier: Module) -> Iterator[Evidence]:
    path = at(amplifier, lambda it: it.level)
    if not digital_link(design):
        yield Evidence(
            KEEPS, "robust", 0.05, "An analogue line joins radio and amplifier: no digital adapter that could fail.",
            at(amplifier),
        )  # fmt: skip
    if amplifier.level.value is Level.FIXED:
        yield Evidence(
            KEEPS, "functions", -0.1,
            f"{amplifier.name} makes the volume itself: the new radio's knob must be the only one that moves.", path,
        )  # fmt: skip


def room_for_amplifier(design: Design) -> Module | Space | None:
    """Where an amplifier of its own would go: the disc changer's place, else a space found besides the box's."""
    bay = next((m for m in design.vehicle.modules if m.kind is ModuleKind.CHANGER), None)
    return bay or next((s for s in design.vehicle.spaces if s.id != BOX_SPACE), None)


def _room(design: Design) -> Iterator[Evidence]:
    room = room_for_amplifier(design)
    if room is not None:
        words = f"where {room.name.lower()} is" if isinstance(room, Module) else room.name.lower()
        yield Evidence((StrategyKey.RADIO_BYPASS,), "time", 0.1, f"A new amplifier has its place: {words}.", at(room))


def pairs_driven(design: Design) -> int:
    """How many output pairs of the factory amplifier drive speakers: what a new amplifier has to drive instead."""
    amplifier = factory_amplifier(design)
    if amplifier is None:
        return 0
    used = {s.channel_id for s in design.vehicle.speakers}
    return sum(c.id in used for c in amplifier.channels)


def splits_bands(design: Design) -> bool:
    """Whether outputs of the factory amplifier are known to carry different parts of the range, which a new one would
    have to part too.
    """
    amplifier = factory_amplifier(design)
    bands = {c.band.value for c in amplifier.channels} - {None} if amplifier is not None else set()
    return len(bands) > 1


def active_words(design: Design) -> str:
    """What bypassing takes where every driver has a channel of its own; empty where it is no more than usual."""
    pairs = pairs_driven(design)
    if pairs <= USUAL_CHANNELS:
        return ""
    processor = " and a processor that splits the bands" if splits_bands(design) else ""
    return f"{count(pairs, 'output')} of the factory amplifier to drive anew: {pairs} channels{processor}"


USUAL_CHANNELS = 5  # of one new amplifier, common practice


def wishes_reliable(design: Design) -> bool:
    """Whether it is wanted above all that it lasts."""
    return Wish.RELIABLE in design.intake.wishes
