"""Which line pair goes into which channels: front, rear and subwoofer kept apart as far as the source has pairs, and
midranges and tweeters on channels of their own where a processor parts the bands.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ChannelPlace, Tier
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.loads.corners import corner_of
from ohmack.core.loads.driven import new_driver, tweeter_at
from ohmack.core.loads.drivers import nets_of
from ohmack.core.loads.line_parts import tweeter_hz, usual_hz
from ohmack.core.loads.parted import midrange_at
from ohmack.core.signal.ways import LineSource, pairs_of

Tree = dict[str, Any]
ROLES = ("front", "rear", "subwoofer")
MIDRANGES, TWEETERS, CENTRE = "midranges", "tweeters", "centre"


def source_of_lines(design: Design) -> LineSource | None:
    """Where line pairs are taken from: a converter, a new radio that has some, else the radio that stays."""
    converter = next(design.parts_of(Converter), None)
    return converter or radio_with_lines(design)


def radio_with_lines(design: Design) -> LineSource | None:
    """The radio that plays under this plan, where it has line outputs, or the adapter that has them in its place."""
    unit = next(design.parts_of(HeadUnit), None)
    if unit is not None:
        return unit if unit.line_pairs and unit.line_v else None
    adapter = next((part for part in design.parts_of(Accessory) if part.gives_lines), None)
    if adapter is not None:
        return adapter
    radio = design.vehicle.radio
    return radio if radio.line_pairs.value and radio.tier.value is not Tier.NONE else None


def role_of(design: Design, thing_id: str, roles: tuple[str, ...] = ROLES) -> str:
    """What a driven thing plays: front, rear or subwoofer, or as a tweeter or a midrange where those are kept apart."""
    if TWEETERS in roles and _is_bare_tweeter(design, thing_id):
        return TWEETERS
    if MIDRANGES in roles and midrange_at(design, thing_id):
        return MIDRANGES
    corner = corner_of(design, thing_id)
    if CENTRE in roles and corner is ChannelPlace.CENTRE:
        return CENTRE
    return "subwoofer" if corner is ChannelPlace.SUB else corner.axle or "front"


def _is_bare_tweeter(design: Design, thing_id: str) -> bool:
    """Whether a tweeter plays there that no crossover of its own parts from its woofer."""
    new = new_driver(design, thing_id)
    if new is None:
        speaker = next((s for s in design.vehicle.speakers if s.id == thing_id), None)
        held = speaker is None or speaker.own_capacitor.value is True
    else:
        held = new.own_high_pass
    return tweeter_at(design, thing_id) and not held and not any(thing_id in places for places in nets_of(design))


def _roles(design: Design, source: LineSource, played: Iterable[str]) -> tuple[str, ...]:
    """What a source keeps apart, in the order of its pairs: a processor parts the bands in front, and sums both sides
    for a centre; where it is short of one pair, the subwoofer shares the woofers', and its own amplifier ends it.
    """
    if not (isinstance(source, Converter) and source.kind == "processor"):
        return ROLES
    things = [*played, *(k.to_id for k in design.links_of(SpeakerLink))]
    middle, tweeters = _middle(design, things), any(_is_bare_tweeter(design, name) for name in things)
    centre = any(corner_of(design, name) is ChannelPlace.CENTRE for name in things)
    if not tweeters and middle is None and not centre:
        return ROLES
    rear = any(corner_of(design, name).axle == "rear" for name in things)
    parted = [MIDRANGES] if middle is not None else []
    parted += [TWEETERS] if tweeters else []
    roles = ("front", *parted, *(("rear",) if rear else ()), *((CENTRE,) if centre else ()), "subwoofer")
    if (middle is not None or centre) and len(roles) == source.output_pairs + 1:
        roles = roles[:-1]
    return roles if len(roles) <= source.output_pairs else ROLES


def _middle(design: Design, things: Iterable[str]) -> float | None:
    """Where the midranges among some driven things begin [hz]; None where there are none."""
    found = (usual_hz(design, name) for name in things if midrange_at(design, name))
    return next((hz for hz in found if hz is not None), None)


def _pair_for(source: LineSource, role: str, roles: tuple[str, ...] = ROLES) -> int:
    at_pair = roles.index(role if role in roles else roles[0])
    return min(at_pair + 1, pairs_of(source) or 1)


def _filters(design: Design, role: str, roles: tuple[str, ...], things: Iterable[str]) -> Tree:
    """What a processor is set to for a pair where it parts the bands in front, by what the pair is for; none
    elsewhere.
    """
    middle = _middle(design, things) if MIDRANGES in roles else None
    low = {"low_pass_hz": tweeter_hz()} if TWEETERS in roles else {}
    match role if role in roles else roles[0]:
        case "front":
            return {"low_pass_hz": middle} if middle is not None else low
        case "midranges":
            return {"high_pass_hz": middle} | low
        case "tweeters":
            return {"high_pass_hz": tweeter_hz()}
    return {}


def _by_pair(
    design: Design, amplifier: Amplifier, source: LineSource, more: Iterable[Tree]
) -> dict[int, tuple[str, set[int]]]:
    """The channels in use by the pair that suits what hangs on them: (the role it is named by, channels)."""
    outputs = [
        *((k.to_id, k.channel, k.bridged) for k in design.links_of(SpeakerLink) if k.from_id == amplifier.id),
        *((t["to_id"], t["channel"], t.get("bridged", False)) for t in more if t["from_id"] == amplifier.id),
    ]
    found: dict[int, tuple[str, set[int]]] = {}
    roles = _roles(design, source, (thing_id for thing_id, _, _ in outputs))
    for thing_id, channel, bridged in outputs:
        role = role_of(design, thing_id, roles)
        into = found.setdefault(_pair_for(source, role, roles), (role, set()))[1]
        into |= {channel, channel + 1} if bridged else {channel}
    return found


def line_links(
    design: Design, part: Amplifier | PoweredSubwoofer, source: LineSource, more: Iterable[Tree] = ()
) -> Iterator[Tree]:
    """Line links an amplifier or a powered subwoofer still lacks.

    Parameters:
        design: the design, the part in it.
        part: what is fed.
        source: where the pairs come from.
        more: speaker links that are laid in the same act.

    Returns:
        link trees without way points: one pair for each of front, rear and subwoofer, fewer where the source has
        fewer. Source: common practice.
    """
    laid = [line for line in design.links_of(LineLink) if line.to_id == part.id]
    if any(not line.channels for line in laid):
        return  # it feeds all; `remapped` gives it its own channels first where others get a pair of their own
    base = {"kind": "line", "from_id": source.id, "to_id": part.id}
    more = list(more)
    things = [*(tree["to_id"] for tree in more), *(k.to_id for k in design.links_of(SpeakerLink))]
    roles = _roles(design, source, things)
    if isinstance(part, PoweredSubwoofer) or part.channels == 1:
        if not laid:
            tree = {"id": f"line-{part.id}", "pair": _pair_for(source, "subwoofer", roles)}
            yield base | tree | _filters(design, "subwoofer", roles, things)
        return
    fed = {n for line in laid for n in line.channels}
    by_pair = _by_pair(design, part, source, more)
    if len(by_pair) < 2 and not laid:
        pair, (role, _) = next(iter(by_pair.items()), (1, ("front", set())))
        yield base | {"id": f"line-{part.id}", "pair": pair} | _filters(design, role, roles, things)
        return
    for pair, (role, channels) in sorted(by_pair.items()):
        if lacking := sorted(channels - fed):
            tree = {"id": f"line-{part.id}-{role}"[:40], "pair": pair, "channels": lacking}
            yield base | tree | _filters(design, role, roles, things)


def remapped(design: Design, part: Amplifier, source: LineSource, more: Iterable[Tree] = ()) -> tuple[Edit, ...]:
    """Edits that give a pair which feeds every channel its own ones, once what hangs on the others wants another pair;
    and that part the bands once tweeters or midranges come to channels of their own.

    Parameters:
        design: the design.
        part: the amplifier.
        source: where the pairs come from.
        more: speaker links that are laid in the same act.

    Returns:
        the edits; none where all it drives wants the same. Pairs that name their channels keep them, and filters that
        are set stay, but for a line that takes another pair.
    """
    more = list(more)
    laid = [line for line in design.links_of(LineLink) if line.to_id == part.id and line.from_id == source.id]
    by_pair = _by_pair(design, part, source, more)
    if part.channels == 1 or not laid or not by_pair:
        return ()
    things = [*(tree["to_id"] for tree in more), *(k.to_id for k in design.links_of(SpeakerLink))]
    roles = _roles(design, source, things)
    new = [tree["to_id"] for tree in more]
    parts_bands = any(_is_bare_tweeter(design, name) or midrange_at(design, name) for name in new)
    edits = []
    for line in laid:
        pair = line.pair
        if len(laid) == 1 and not line.channels:
            pair = pair if pair in by_pair else min(by_pair)
            edits += [Edit(path=at(line, lambda it: it.pair), value=pair)] if pair != line.pair else []
            if len(by_pair) > 1:
                edits.append(Edit(path=at(line, lambda it: it.channels), value=sorted(by_pair[pair][1])))
        if pair in by_pair and (parts_bands or pair != line.pair):
            set_to = _filters(design, by_pair[pair][0], roles, things)
            edits += _set_in_source(line, set_to, anew=pair != line.pair)
    return tuple(edits)


def _set_in_source(line: LineLink, set_to: Tree, anew: bool) -> Iterator[Edit]:
    """Edits that set a source's filters for a line; those that are set stay, but for a line that takes another pair."""
    corners = (
        (at(line, lambda it: it.high_pass_hz), line.high_pass_hz),
        (at(line, lambda it: it.low_pass_hz), line.low_pass_hz),
    )
    for path, now in corners:
        wanted = set_to.get(path.rpartition("/")[2])
        if wanted != now and (anew or now is None):
            yield Edit(path=path, value=wanted)
