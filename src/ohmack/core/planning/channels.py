"""Which channel of an amplifier drives what: subwoofers bridged or alone, new drivers by side, a plug-in amplifier
as the old one.
"""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import Driver, Subwoofer
from ohmack.core.loads.corners import corner_of, joined_in_corners
from ohmack.core.loads.driven import driver_coil, new_driver, sub_coils, tweeter_at
from ohmack.core.loads.parted import midrange_at
from ohmack.core.loads.wiring_judge import OnChannel, best_wiring
from ohmack.core.loads.wirings import output_rows
from ohmack.core.planning.nets import parted_with
from ohmack.core.record import record

Tree = dict[str, Any]


def _free(amplifier: Amplifier, design: Design) -> list[int]:
    """Channels nothing hangs on yet."""
    used = design.channels_taken(amplifier.id)
    return [n for n in range(1, amplifier.channels + 1) if n not in used]


def _positions(design: Design, amplifier: Amplifier, factory: bool) -> list[list[str]]:
    """Speaker positions an amplifier may drive, those that share a channel together, front left first."""
    driven = {link.to_id for link in design.links_of(SpeakerLink)}
    if amplifier.plugs_in or factory:
        heard = [s for s in design.vehicle.speakers if not s.left_silent]
        wide = {s.channel_id for s in heard if corner_of(design, s.id) is not ChannelPlace.SUB}
        outputs = [[c.id for c in m.channels] for m in design.vehicle.modules if m.amplifies]
        # one for the bass alone, beside a radio that plays the doors, keeps what it plays
        whole = any(wide.intersection(own) for own in outputs)
        channels = [name for own in outputs for name in own if whole or amplifier.plugs_in]
        channels = channels or [c.id for c in design.vehicle.radio.channels]
        groups = [[s.id for s in heard if s.channel_id == c] for c in channels]
    else:
        names = [name for part in design.parts_of(Driver) for name in part.at_ids]
        groups = [[name] for name in sorted(names, key=lambda name: _rank(design, name))]
    return [[name for name in group if name not in driven] for group in groups if set(group) - driven]


def _rank(design: Design, name: str) -> int:
    """Whose turn it is where channels are short: the front from its woofers up, the rear, the centre."""
    corner = corner_of(design, name)
    if corner.axle != "front":
        return 3 if corner.axle == "rear" else 4
    return 2 if tweeter_at(design, name) else int(midrange_at(design, name))


def strongest_first(design: Design) -> list[Amplifier]:
    """The amplifiers in the order in which they take what waits: the strongest output for a subwoofer first."""
    return sorted(design.parts_of(Amplifier), key=lambda one: -_sub_output_w(one, design))


def _for_a_sub(amplifier: Amplifier, free: list[int]) -> list[int]:
    """The channels kept for a subwoofer: of the strongest group the last two bridged where the papers rate that, else
    its first where the amplifier has groups; none where all channels are alike and none bridges.
    """
    strong = max(amplifier.groups, key=lambda group: max(rating.power_w for rating in group.ratings))
    own = [n for n in free if n in strong.numbers]
    if strong.bridged_ratings and len(own) >= 2 and own[-1] == own[-2] + 1:
        return own[-2:]
    return own[:1] if len(amplifier.groups) > 1 else []


def _rated_w(amplifier: Amplifier, channel: int, bridged: bool) -> float:
    return max((power_w for _, power_w in output_rows(amplifier, channel, bridged)[0]), default=0.0)


def _sub_output_w(amplifier: Amplifier, design: Design) -> float:
    """The most the output it has free for a first subwoofer is rated at [w]; 0 without one."""
    free = _free(amplifier, design)
    if amplifier.plugs_in or _output_with_subs(design, amplifier, []) is not None:
        return 0.0
    taken = free[:1] if amplifier.channels == 1 else _for_a_sub(amplifier, free)
    return _rated_w(amplifier, taken[0], len(taken) > 1) if taken else 0.0


def _free_elsewhere(design: Design, amplifier: Amplifier) -> list[tuple[Amplifier, float]]:
    """The other amplifiers with an output free for a first subwoofer, and what it is rated at [w]."""
    others = [(other, _sub_output_w(other, design)) for other in design.parts_of(Amplifier)]
    return [(other, rated_w) for other, rated_w in others if other.id != amplifier.id and rated_w]


def _better_elsewhere(design: Design, amplifier: Amplifier, name: str) -> bool:
    """Whether a subwoofer belongs to a stronger amplifier: one with its output free; or where it may join others, if
    this one has doors to drive.
    """
    own_w = _sub_output_w(amplifier, design)
    if any(rated_w > own_w for _, rated_w in _free_elsewhere(design, amplifier)):
        return True
    return amplifier.channels > 1 and _joins_elsewhere(design, amplifier, name, own_w)


def _room_elsewhere(design: Design, amplifier: Amplifier, groups: int) -> bool:
    """Whether doors belong to a weaker amplifier: it has channels free for all of them."""
    own_w = _rated_w(amplifier, 1, bridged=False)
    return any(
        other.id != amplifier.id
        and not other.plugs_in
        and len(_free(other, design)) >= max(groups, 2)
        and _rated_w(other, 1, bridged=False) < own_w
        for other in design.parts_of(Amplifier)
    )


def speaker_links(design: Design, amplifier: Amplifier, factory: bool = False) -> list[Tree]:
    """Speaker links an amplifier still lacks, each with its channel.

    Parameters:
        design: the design, the amplifier in it.
        amplifier: the amplifier.
        factory: whether the factory speakers are its to drive, over fresh wire, where no new ones wait for it.

    Returns:
        link trees; positions fill the first channels, a subwoofer the last two bridged where the papers rate that,
        else the stronger group of unlike channels, else the first free one; equal speakers in further new places
        share a channel of their side; further subwoofers join the first where
        some wiring of all their coils is permitted there, or nothing else is free. Of several amplifiers
        the one with the most power free takes them, and a weaker one with channels for all doors those. Source:
        common practice.
    """
    free = _free(amplifier, design)
    driven = {link.to_id for link in design.links_of(SpeakerLink)}
    waiting = [s for s in design.parts_of(Subwoofer) if s.id not in driven]
    subs = [s.id for s in sorted(waiting, key=lambda sub: -sub.power_rms_w)]
    trees: list[Tree] = []

    def put(name: str, channel: int, bridged: bool = False) -> None:
        tree = {
            "id": f"speaker-{name}",
            "kind": "speaker",
            "from_id": amplifier.id,
            "to_id": name,
            "channel": channel,
        }
        more = {"bridged": True} if bridged else {}
        trees.append(tree | more | ({"factory_wire": True} if amplifier.plugs_in and name not in subs else {}))

    here = bool(subs) and not _better_elsewhere(design, amplifier, subs[0])
    if amplifier.channels == 1:
        if here and free:
            put(subs.pop(0), 1)
        free = []
    elif (
        here
        and not amplifier.plugs_in
        and not _output_with_subs(design, amplifier, [])
        and (taken := _for_a_sub(amplifier, free))
    ):
        put(subs.pop(0), taken[0], bridged=len(taken) > 1)
        free = [n for n in free if n not in taken]
    groups = _positions(design, amplifier, factory) if amplifier.channels > 1 else []
    if amplifier.plugs_in or factory:
        groups = joined_in_corners(design, groups, len(free))
    if not amplifier.plugs_in and not factory and _room_elsewhere(design, amplifier, len(groups)):
        groups = []
    for group in groups:
        channel = _through_a_net(design, amplifier, trees, group[0]) or _on_its_pair(design, amplifier, group[0])
        if channel is None:
            channel = free.pop(0) if free else _shared_by(design, amplifier, trees, group)
        if channel is None:
            break
        for name in group:
            put(name, channel)
    for name in subs:
        output = _output_with_subs(design, amplifier, trees)
        if _taken_elsewhere(design, amplifier, output, name):
            continue
        if output is not None and (not free or _joins(design, amplifier, output, name)):
            put(name, *output.place)
        elif free and not _joins_elsewhere(design, amplifier, name):
            put(name, free.pop(0))
    return trees


def _through_a_net(design: Design, amplifier: Amplifier, trees: list[Tree], name: str) -> int | None:
    """The channel of this amplifier that plays what a crossover net parts a place from; None where there is none."""
    others = parted_with(design, name)
    laid = [k for k in design.links_of(SpeakerLink) if k.from_id == amplifier.id and not k.bridged]
    found = [k.channel for k in laid if k.to_id in others]
    return next(iter(found or [tree["channel"] for tree in trees if tree["to_id"] in others]), None)


def _on_its_pair(design: Design, amplifier: Amplifier, name: str) -> int | None:
    """The channel of an amplifier in the works' place that plays the pair a speaker hangs on; None where none does."""
    if not amplifier.plugs_in:
        return None
    pairs = {speaker.id: speaker.channel_id for speaker in design.vehicle.speakers}
    laid = [k for k in design.links_of(SpeakerLink) if k.from_id == amplifier.id]
    return next((k.channel for k in laid if pairs.get(name) and pairs.get(k.to_id) == pairs[name]), None)


def _shared_by(design: Design, amplifier: Amplifier, trees: list[Tree], group: list[str]) -> int | None:
    """The channel a new place of the car shares with its like: the same speaker in places that are new too, on the
    same side, where some wiring of all of them is permitted; the one with the fewest. None where there is none, and
    for what the car had, which plays on from where it did.
    """
    speakers, policy = {s.id: s for s in design.vehicle.speakers}, design.policy
    name = group[0]
    driver = new_driver(design, name)
    if len(group) > 1 or driver is None or not speakers[name].new_place:
        return None
    coil = driver_coil(driver)
    like = {s.id for s in speakers.values() if s.new_place and s.side == speakers[name].side}
    like &= {at_id for part in design.parts_of(Driver) if driver_coil(part) == coil for at_id in part.at_ids}
    laid = [(k.channel, k.to_id) for k in design.links_of(SpeakerLink) if k.from_id == amplifier.id and not k.bridged]
    laid += [(tree["channel"], tree["to_id"]) for tree in trees if not tree.get("bridged")]
    by_channel: dict[int, list[str]] = {}
    for channel, hung in laid:
        by_channel.setdefault(channel, []).append(hung)
    for channel, names in sorted(by_channel.items(), key=lambda item: len(item[1])):
        rows, lowest_ohm = output_rows(amplifier, channel, bridged=False)
        drivers = tuple(OnChannel(hung, (coil,), driver.power_rms_w) for hung in (*names, name))
        if like.issuperset(names) and best_wiring(
            tuple(rows), lowest_ohm, drivers, policy.match_low, policy.match_high
        ):
            return channel
    return None


def handed_over(design: Design, amplifier: Amplifier) -> tuple[Edit, ...]:
    """Edits that give a monoblock without a load the subwoofer of an amplifier of several channels; none else.

    Parameters:
        design: the design, the monoblock in it.
        amplifier: the monoblock.

    Returns:
        the edits; a line pair that fed those channels alone goes, so that one that suits the speakers is laid.
    """
    cables = list(design.links_of(SpeakerLink))
    subs, driven = {sub.id for sub in design.parts_of(Subwoofer)}, {k.to_id for k in cables}
    loaded = any(k.from_id == amplifier.id for k in cables)
    if amplifier.channels != 1 or amplifier.plugs_in or loaded or subs - driven:
        return ()
    several = {other.id for other in design.parts_of(Amplifier) if other.channels > 1 and not other.plugs_in}
    first = next((k for k in cables if k.to_id in subs and k.from_id in several and not k.coils), None)
    if first is None:
        return ()
    freed = set(first.takes)
    own = [line for line in design.links_of(LineLink) if line.to_id == first.from_id]
    edits = [Edit(op="remove", path=at(line)) for line in own if line.channels and set(line.channels) <= freed]
    for cable in (k for k in cables if (k.from_id, k.channel) == (first.from_id, first.channel)):
        edits += [
            Edit(path=at(cable, lambda it: it.from_id), value=amplifier.id),
            Edit(path=at(cable, lambda it: it.channel), value=1),
            Edit(path=at(cable, lambda it: it.bridged), value=False),
        ]
    return tuple(edits)


@record
class _SubOutput:
    """An output that drives subwoofers: its channel, whether it is bridged, and which."""

    place: tuple[int, bool]
    names: tuple[str, ...]


def _output_with_subs(design: Design, amplifier: Amplifier, trees: list[Tree]) -> _SubOutput | None:
    """The first output of an amplifier that drives subwoofers with all their coils, laid or about to be."""
    subs = {sub.id for sub in design.parts_of(Subwoofer)}
    laid = [
        ((link.channel, link.bridged), link.to_id)
        for link in design.links_of(SpeakerLink)
        if link.from_id == amplifier.id and not link.coils
    ]
    laid += [((tree["channel"], tree.get("bridged", False)), tree["to_id"]) for tree in trees]
    place = next((where for where, name in laid if name in subs), None)
    return None if place is None else _SubOutput(place, tuple(name for where, name in laid if where == place))


def _joins(design: Design, amplifier: Amplifier, output: _SubOutput, name: str) -> bool:
    """Whether one more subwoofer may hang on an output: some wiring of all coils is permitted and rated there."""
    parts = [part for part in (design.part(own) for own in (*output.names, name)) if isinstance(part, Subwoofer)]
    if len(parts) <= len(output.names):
        return False  # something else hangs there too
    rows, lowest_ohm = output_rows(amplifier, *output.place)
    drivers = tuple(OnChannel(sub.name, sub_coils(sub), sub.power_rms_w) for sub in parts)
    policy = design.policy
    return best_wiring(tuple(rows), lowest_ohm, drivers, policy.match_low, policy.match_high) is not None


def _joins_elsewhere(design: Design, amplifier: Amplifier, name: str, over_w: float = 0.0) -> bool:
    """Whether another amplifier drives subwoofers this one may join, on an output rated over some power [w]."""
    for other in design.parts_of(Amplifier):
        output = None if other.id == amplifier.id else _output_with_subs(design, other, [])
        if output is not None and _rated_w(other, *output.place) > over_w and _joins(design, other, output, name):
            return True
    return False


def _taken_elsewhere(design: Design, amplifier: Amplifier, output: _SubOutput | None, name: str) -> bool:
    """Whether another amplifier, free for a first subwoofer, takes this one: a monoblock, one as strong, or any where
    it may not join here.
    """
    free = _free_elsewhere(design, amplifier)
    if output is None or any(other.channels == 1 for other, _ in free):
        return bool(free)
    own_w = _rated_w(amplifier, *output.place)
    return any(rated_w >= own_w for _, rated_w in free) or (bool(free) and not _joins(design, amplifier, output, name))
