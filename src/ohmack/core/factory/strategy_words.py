"""What a strategy means for one car, in words: the signal it finds, the supply it wants, the channels it needs."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design, Fact
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import Wish
from ohmack.core.document.factory import Level, Tier
from ohmack.core.document.interventions import factory_amplifier
from ohmack.core.document.parts import HeadUnit, PoweredSubwoofer, Subwoofer
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import FeedRole
from ohmack.core.factory.evidence import active_words, pairs_driven
from ohmack.core.factory.pickup_places import Pickup
from ohmack.core.factory.roles import ON_ONE
from ohmack.core.factory.way_acts import AT_THE_RADIO
from ohmack.core.loads.corners import joined_in_corners
from ohmack.core.supply.feed_taps import feed_refuses
from ohmack.core.supply.own_runs import feeds_of_the_old
from ohmack.core.wording import count, listed

POWERED_SUB_A, PLUG_IN_A = 10.0, 20.0  # what a powered subwoofer and a plug-in amplifier draw, common practice


def _draw_a(design: Design, role: str) -> float:
    """What a part with its own amplifier draws: the one in the plan, else the usual one."""
    for part in design.parts:
        if part.kind == role and isinstance(part, PoweredSubwoofer):
            return part.supply_current_a
    return POWERED_SUB_A if role == "powered subwoofer" else PLUG_IN_A


def supply_words(design: Design, needs: tuple[str, ...]) -> str:
    """What feeds a strategy's parts: the factory feed where the check allows it, else a run of its own."""
    role = next((r for r in ("powered subwoofer", "plug-in amplifier") if r in needs), None)
    if role is None and "extension loom" in needs:
        return "the factory feed, if it carries the screen beside the old radio; else a fused lead of the screen's own"
    if role is None:
        bare = design.vehicle.radio.tier.value is Tier.NONE
        of_radio = "a factory feed that carries the radio" if bare else "the factory feed, load as before"
        return "its own fused run from the battery" if "amplifier" in needs else of_radio
    draws_a = _draw_a(design, role)
    old = feeds_of_the_old(design) if role == "plug-in amplifier" else []
    feeds = old or [f for f in design.vehicle.feeds if f.role is FeedRole.CONSTANT]
    if not feeds:
        return f"its own fused run: it draws up to {draws_a:g} A and no constant feed is on file"
    feed, more = feeds[0], "" if old else " more"
    if refused := feed_refuses(design, feed, draws_a, instead=bool(old)):
        return f"its own fused run: {feed.name} does not carry {draws_a:g} A{more}: {refused[0]}"
    facts: dict[str, Fact[Any]] = {
        **({} if old else {"old load": feed.old_load_a}),
        "fuse": feed.fuse_a,
        "wire": feed.wire_size,
        "length": feed.wire_length_m,
    }
    unknown = [name for name, fact in facts.items() if fact.value is None]
    if unknown:
        return f"{draws_a:g} A: {feed.name} only if its {listed(unknown)} allow it, else its own fused run"
    return f"{feed.name} carries {draws_a:g} A{more}: fuse, wire and drop have room"


def channel_words(design: Design, key: StrategyKey) -> str:
    """Whether the channels and line pairs there are will do."""
    pairs = len({c.place for c in design.vehicle.channels if c.place is not None})
    outputs = pairs_driven(design) or pairs
    radio = next(design.parts_of(HeadUnit), None)
    if key in (StrategyKey.RADIO_PICKUP, StrategyKey.AFTER_AMPLIFIER, StrategyKey.POWERED_SUB):
        return "one summed pair is enough for a subwoofer; fade stays with the factory system"
    if key in (StrategyKey.DOORS_AMPLIFIED, *ON_ONE):
        bass = ", one or two bridged for the bass" if key in ON_ONE else ""
        return f"a channel for each new speaker{bass}; the others stay on the radio, which fades between them"
    if key is StrategyKey.SCREEN_ON_TOP:
        return "the factory amplifier and its speakers as they are, through the old radio"
    if key is StrategyKey.RADIO_BYPASS and (active := active_words(design)):
        return active
    if key is StrategyKey.RADIO_BYPASS:
        wanted = line_pairs_wanted(design)
        if radio is None:
            return (
                f"{count(wanted, 'line pair')} of the new radio for {pairs or 'the'} speaker outputs, or fade is lost"
            )
        enough = radio.line_pairs >= wanted
        return (
            f"{radio.name} has {radio.line_pairs} of {count(wanted, 'line pair')}:"
            f" {'enough' if enough else 'fade or the subwoofer level is lost'}"
        )
    if key is StrategyKey.REPLACE_AMPLIFIER:
        plug = next((a for a in design.parts_of(Amplifier) if a.plugs_in), None)
        if plug is not None and outputs:
            verdict = "enough" if plug.channels >= outputs else "too few"
            if plug.channels < outputs and does_for_all(design, plug.channels):
                verdict = "enough where the high and the low pair of a corner share one"
            return f"{plug.name} has {plug.channels} channels for {outputs} factory outputs: {verdict}"
    if design.vehicle.radio.tier.value is Tier.NONE:
        return "as many as the new radio has, onto the speakers there are"
    return f"{outputs} factory outputs as they are" if outputs else "as many as the new radio has"


def does_for_all(design: Design, channels: int) -> bool:
    """Whether so many channels do for every pair the factory amplifier drives, the high and the low pair of a corner
    on one where it takes that.
    """
    amplifier = factory_amplifier(design)
    pairs = amplifier.channels if amplifier is not None else ()
    groups = [[s.id for s in design.vehicle.speakers if s.channel_id == c.id] for c in pairs]
    return len(joined_in_corners(design, [group for group in groups if group], channels)) <= channels


def line_pairs_wanted(design: Design) -> int:
    """How many line pairs keep front, rear and subwoofer apart."""
    axles = {c.place.axle for c in design.vehicle.channels if c.place is not None} - {""}
    bass = Wish.BASS in design.intake.wishes or any(True for _ in design.parts_of(Subwoofer))
    return max(1, len(axles)) + bass


def signal_words(design: Design, key: StrategyKey, taps: tuple[Pickup, ...]) -> tuple[str, float]:
    """(where the signal comes from and what it is like, its quality from 0 to 1)."""
    radio_id = design.vehicle.radio.id
    pool: list[Pickup] = []
    if key in AT_THE_RADIO:
        pool = [t for t in taps if t.source_id == radio_id and t.usable] or (
            [t for t in taps if t.usable] if key is StrategyKey.POWERED_SUB else []
        )
    elif key is StrategyKey.AFTER_AMPLIFIER:
        pool = [t for t in taps if t.source_id != radio_id and t.usable]
    if pool:
        tap = pool[0]
        return f"{tap.name}, {tap.level}: {tap.words}", max(0.3, 1.0 - tap.badness / 80)
    if key in (StrategyKey.RADIO_BYPASS, StrategyKey.RADIO_KEEP_AMPLIFIER, StrategyKey.NEW_RADIO, StrategyKey.ALL_NEW):
        return "line outputs of the new radio, 2 to 5 V, full range", 1.0
    if key is StrategyKey.SCREEN_ON_TOP:
        return "the screen's line output into an input of the old radio, which goes on as master of the ring", 0.85
    if key is StrategyKey.REPLACE_AMPLIFIER:
        amplifier = factory_amplifier(design)
        if amplifier is not None and amplifier.level.value is Level.FIXED:
            return "the lines to the old amplifier, fixed level: the new one must make the volume", 0.7
        return "the lines or the ring to the old amplifier, flat", 0.95
    return "the factory's own, unchanged", 0.9
