"""Switch-on: the sources there are, in the trade's order of preference, and what each does in every key state."""

from __future__ import annotations

from math import inf

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.links import RemoteLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.document.small_parts import SwitchingRelay
from ohmack.core.document.vehicle import Feed, FeedRole, KeyState
from ohmack.core.record import record

RELAY_COIL_A = 0.15  # what a small automotive relay's coil draws, common practice


def relay_coil_a(design: Design) -> float:
    """What the coil of the planned relay draws [a]; the usual where none is among the parts."""
    relay = next(design.parts_of(SwitchingRelay), None)
    return RELAY_COIL_A if relay is None else relay.coil_a


SENSING_HOLD_S = 60.0  # audio sensing holds on for about a minute after silence, common practice
BUS_HOLD_S = 600.0  # modules stay awake for about ten minutes, common practice
PREFERENCE = (FeedRole.REMOTE, FeedRole.AERIAL, FeedRole.SWITCHED)
PLAYING = (KeyState.ACCESSORY, KeyState.ON)
WHY = {
    FeedRole.REMOTE: "made for it: on with the radio, off with it",
    FeedRole.AERIAL: "on with the radio; in some cars only while it plays a station",
    FeedRole.SWITCHED: "on with the key, whether the radio plays or not; by an add-a-fuse",
    FeedRole.CONSTANT: "never off",
    FeedRole.ILLUMINATION: "only with the lights",
    FeedRole.OTHER: "not known what it is; ask before using it",
}
OFF_THE_BUS = "from the data bus: on with the radio, where nothing at its plug is switched"


@record
class SwitchSource:
    """One way to switch the amplifiers on."""

    id: str
    name: str
    rank: int
    why: str
    gives_a: float | None
    wants_a: float
    needs_relay: bool
    states: tuple[KeyState, ...] | None
    sensing: bool
    hold_s: float
    standby_a: float | None
    chosen: bool
    good: bool

    @property
    def hold_min(self) -> float:
        """How long it holds after key off, in minutes."""
        return self.hold_s / 60

    def behaviour(self, state: KeyState) -> str:
        """What the amplifiers do in one key state."""
        if self.sensing:
            return "with music" if state in PLAYING else "off"
        if self.states is None:
            return "?"
        return "on" if state in self.states else "off"


def _from_feed(
    design: Design, feed: Feed, wants_a: float, idle_a: float, chosen: set[str], relayed: bool
) -> SwitchSource:
    states, gives_a = feed.live.value, feed.limit_a.value
    rank = PREFERENCE.index(feed.role) + 1 if feed.role in PREFERENCE else 6
    hold_s = 0.0
    if states is not None:
        hold_s = inf if KeyState.ASLEEP in states else BUS_HOLD_S if KeyState.BUS_AWAKE in states else 0.0
    asleep = states is not None and KeyState.ASLEEP in states
    drives_a = relay_coil_a(design) if relayed and feed.id in chosen else wants_a
    short = gives_a is not None and drives_a > gives_a
    good = states is not None and set(PLAYING) <= set(states) and not asleep and not short and gives_a is not None
    return SwitchSource(
        feed.id, feed.name, rank, WHY[feed.role], gives_a, drives_a, short, states, False, hold_s,
        (idle_a if asleep else 0.0) if states is not None else None, feed.id in chosen, good,
    )  # fmt: skip


def switch_sources(design: Design) -> tuple[SwitchSource, ...]:
    """Every source that could switch the amplifiers on, the preferred first.

    Parameters:
        design: the design.

    Returns:
        feeds, converters and new radios; what they give and must give [a], how long they hold after key off [s],
        what they leave on [a]. Empty without an amplifier.

    Source: order of preference and hold times common practice.
    """
    amplifiers: list[Amplifier | PoweredSubwoofer] = [*design.parts_of(Amplifier), *design.parts_of(PoweredSubwoofer)]
    if not amplifiers:
        return ()
    wants_a = sum(a.remote_current_a for a in amplifiers)
    idle_a = sum(a.idle_current_a for a in amplifiers)
    links = list(design.links_of(RemoteLink))
    chosen = {link.from_id for link in links}
    relayed = bool(links) and all(link.relay for link in links)
    found = [_from_feed(design, feed, wants_a, idle_a, chosen, relayed) for feed in design.vehicle.feeds]
    for converter in design.parts_of(Converter):
        if converter.remote_out_limit_a is None:
            continue
        hold_s = SENSING_HOLD_S if converter.senses_audio else 0.0
        why = (
            "hears the music itself; drops out in long quiet passages"
            if converter.senses_audio
            else "follows the converter's own switch-on"
        )
        drives_a = relay_coil_a(design) if relayed and converter.id in chosen else wants_a
        short = drives_a > converter.remote_out_limit_a
        found.append(
            SwitchSource(
                converter.id,
                f"{converter.name}, remote output",
                4,
                why,
                converter.remote_out_limit_a,
                drives_a,
                short,
                None if not converter.senses_audio else PLAYING,
                converter.senses_audio,
                hold_s,
                None,
                converter.id in chosen,
                converter.senses_audio and not short,
            )
        )
    radios: list[tuple[HeadUnit | Accessory, str, int, str]] = [
        (unit, f"{unit.name}, remote lead", 0, WHY[FeedRole.REMOTE]) for unit in design.parts_of(HeadUnit)
    ]
    radios += [(box, f"{box.name}, switched output", 1, OFF_THE_BUS) for box in design.parts_of(Accessory)]
    for part, name, rank, why in radios:
        gives_a = part.remote_out_limit_a
        if gives_a is None:
            continue
        drives_a = relay_coil_a(design) if relayed and part.id in chosen else wants_a
        short = drives_a > gives_a
        found.append(
            SwitchSource(
                part.id, name, rank, why, gives_a, drives_a, short, PLAYING, False, 0.0, 0.0, part.id in chosen,
                not short,
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda s: (not s.good, s.rank, s.name)))
