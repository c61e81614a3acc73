"""Rules on what switches a system on: the source, and the relay in between."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_id
from ohmack.core.document.links import RemoteLink
from ohmack.core.document.small_parts import SwitchingRelay
from ohmack.core.document.vehicle import KeyState
from ohmack.core.figures.finding import Draft, Remedy, rule, set_to, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.remote_load import SwitchOn
from ohmack.core.signal.switch_on import relay_coil_a, switch_sources

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("switching-relay", "plan", PRACTICE)
def switching_relay(results: Results) -> Iterator[Draft]:
    """A relay among the parts switches nothing, or its contact carries less than hangs behind it."""
    design = results.design
    relayed = [link for link in design.links_of(RemoteLink) if link.relay]
    wanted = {link.to_id for link in relayed}
    behind_a = sum(getattr(part, "remote_current_a", 0.0) for part in design.parts if part.id in wanted)
    for relay in design.parts_of(SwitchingRelay):
        if not design.relayed:
            yield stop(
                relay.id,
                f"{relay.name} switches nothing",
                "It sits in a switch-on wire, its coil on the weak lead and its contact on a fused feed.",
                _into_the_switch_on(design, relay),
            )
        elif behind_a > relay.contact_a:
            yield stop(
                relay.id,
                f"{relay.name} carries {results.say(relay.contact_a, 'a')}, {results.say(behind_a, 'a')} are drawn",
                "Its contact welds and the system stays on. Take a larger one.",
                Remedy("Look at the part", path=at(relay)),
            )


def _into_the_switch_on(design: Design, relay: SwitchingRelay) -> Remedy:
    """A press that puts a relay where it belongs; where nothing is switched on, it goes out again."""
    wires = tuple(set_to(at(link, lambda it: it.relay), True) for link in design.links_of(RemoteLink))
    return (
        Remedy("Put it into the switch-on", wires)
        if wires
        else Remedy("Take it out", (Edit(op="remove", path=at(relay)),))
    )


@rule("switch-on", "plan", PRACTICE)
def switch_on(results: Results) -> Iterator[Draft]:
    """The switch-on source is overloaded, unknown, or live when it must be dead."""
    for source in results.switch_ons:
        load_a, limit_a = source.load.value, source.limit.value
        if source.converter is not None and not source.converter.active:
            yield stop(
                source.source_id,
                f"{source.converter.name} is passive: it switches nothing on",
                "It draws nothing and has no remote output. Another source switches what hangs on it.",
                _by_another(results.design, source),
            )
        elif limit_a is None and source.converter is not None:
            yield stop(
                source.source_id,
                f"No remote output of {source.converter.name} on file",
                "Its papers name none, or nobody entered what it gives. Enter it, or switch by another source.",
                _by_another(results.design, source),
            )
        elif limit_a is None:
            where = source.limit.path
            yield stop(
                source.source_id,
                f"Not known: what {source.source_name} can give",
                f"{results.say(load_a or 0, 'a')} are drawn from it.",
                Remedy("Enter it", path=where),
            )
        elif load_a is not None and load_a > limit_a:
            coil_a = relay_coil_a(results.design)
            relay = tuple(set_to(at_id(RemoteLink, name, lambda it: it.relay), True) for name in source.link_ids)
            yield stop(
                source.source_id,
                f"{source.source_name} gives {results.say(limit_a, 'a')}, {results.say(load_a, 'a')} are drawn from it",
                "Use a relay: the source switches the coil, the relay's contact feeds the rest from a fused line."
                if coil_a <= limit_a
                else f"Not even a relay may hang on it, its coil takes {results.say(coil_a, 'a')}: another source.",
                Remedy("Put a relay in", relay) if coil_a <= limit_a else _by_another(results.design, source),
            )
        if source.feed is None:
            continue
        states = source.feed.live.value
        path = at(source.feed, lambda it: it.live)
        if states is None:
            yield stop(
                source.source_id,
                f"Not known: when {source.source_name} is live",
                "Check it in every key state; not every feed live with the key is a proper remote.",
                Remedy("Enter it", path=path),
            )
        elif KeyState.ASLEEP in states:
            yield stop(
                source.source_id,
                f"{source.source_name} is live with the key off",
                "Key off must mean off: the amplifier would never sleep and drain the battery.",
                _by_another(results.design, source),
            )
        elif not {KeyState.ACCESSORY, KeyState.ON} <= set(states):
            yield watch(
                source.source_id,
                f"{source.source_name} is not live in accessory and on",
                "The radio would play without the amplifier in one of them.",
                Remedy("Check the feed", path=path),
            )


def _by_another(design: Design, source: SwitchOn) -> Remedy:
    """A press that switches the same by the best source there is besides; where there is none, the place to choose."""
    links = [link for link in design.links_of(RemoteLink) if link.id in source.link_ids]
    itself = {source.source_id, *(link.to_id for link in links)}
    best = next((other for other in switch_sources(design) if other.good and other.id not in itself), None)
    if best is None:
        return Remedy("Choose another source", path=at(links[0], lambda it: it.from_id))
    return Remedy(
        f"Switch it by {best.name}", tuple(set_to(at(link, lambda it: it.from_id), best.id) for link in links)
    )
