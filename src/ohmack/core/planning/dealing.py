"""Which amplifier drives what, dealt out anew once a part joins: the same whatever order the parts were put in."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver, Subwoofer
from ohmack.core.loads.driven import new_driver
from ohmack.core.planning.channels import speaker_links, strongest_first
from ohmack.core.planning.laying import laid

OF_THE_WAY = ("tape_length_m", "way_points", "by_hand", "reads_ohm", "sensitivity_kept_v")  # from an old amplifier
LINKS = at_the(Design, lambda it: it.links)


def dealt_anew(before: Design, after: Design) -> tuple[Edit, ...]:
    """Edits that hang new drivers and subwoofers on the amplifiers and channels that suit all of them now.

    Parameters:
        before: the design before some parts were added.
        after: the design with them, wired.

    Returns:
        the edits; none where somebody chose which amplifier, channel or wiring drives what, or where fewer would play
        than do, of subwoofers or else of all. A cable from another amplifier has no length taped. Source: common
        practice.
    """
    was = _loose(before)
    if _places(was) != _dealt_places(before) or any(link.wiring for link in was):
        return ()
    links, dealt = {link.to_id: link for link in _loose(after)}, _dealt(after)
    named = {tree["to_id"] for tree in dealt}
    if _played(after, named) < _played(after, links):
        return ()
    edits = [Edit(op="remove", path=at(link)) for name, link in links.items() if name not in named]
    for tree in dealt:
        link = links.get(tree["to_id"])
        if link is None:
            own = free_id(tree["id"], apply_edits(after, edits).taken_ids())
            edits.append(Edit(op="add", path=LINKS, value={**tree, "id": own}))
        elif _place(tree) != (link.from_id, link.to_id, link.channel, link.bridged):
            edits.append(Edit(path=at(link), value=_moved(link, tree)))
    return laid(after, edits)


def plays_elsewhere(before: Design, after: Design) -> tuple[list[str], list[str]]:
    """The drivers and subwoofers, by name, that another amplifier plays than before, and those that none plays now."""
    was, now = ({k.to_id: k.from_id for k in design.links_of(SpeakerLink)} for design in (before, after))
    moved = [name for name, amplifier in was.items() if now.get(name, amplifier) != amplifier]
    return _named(after, moved), _named(after, [name for name in was if name not in now])


def _named(design: Design, names: Iterable[str]) -> list[str]:
    parts = (design.part(name) or new_driver(design, name) for name in names)
    return list(dict.fromkeys(part.name for part in parts if part is not None))


def _played(design: Design, names: Iterable[str]) -> tuple[int, int]:
    """How many of some things are subwoofers, which no radio plays, and how many others there are."""
    subs = {part.id for part in design.parts_of(Subwoofer)}
    bass = [name in subs for name in names]
    return sum(bass), len(bass) - sum(bass)


def _loose(design: Design) -> list[SpeakerLink]:
    """The leads from amplifiers to subwoofers and new drivers that are not in the car, nor part the coils of one, nor
    play over the works' wires.
    """
    amplifiers = {part.id for part in design.parts_of(Amplifier)}
    new = {name for part in design.parts_of(Driver) for name in part.at_ids}
    new |= {part.id for part in design.parts_of(Subwoofer)}
    found = (k for k in design.links_of(SpeakerLink) if k.from_id in amplifiers and k.to_id in new)
    return [link for link in found if not (link.in_car or link.coils or link.factory_wire)]


def _dealt(design: Design) -> list[dict[str, Any]]:
    """The leads there would be, had all amplifiers and drivers come at once: the strongest chooses first."""
    bare = apply_edits(design, [Edit(op="remove", path=at(link)) for link in _loose(design)])
    found: list[dict[str, Any]] = []
    for amplifier in strongest_first(bare):
        for tree in speaker_links(bare, amplifier):
            own = free_id(tree["id"], bare.taken_ids())
            bare = apply_edits(bare, [Edit(op="add", path=LINKS, value={**tree, "id": own})])
            found += [] if tree.get("factory_wire") else [tree]
    return found


def _place(tree: dict[str, Any]) -> tuple[str, str, int, bool]:
    return tree["from_id"], tree["to_id"], tree.get("channel", 1), tree.get("bridged", False)


def _places(links: Iterable[SpeakerLink]) -> set[tuple[str, str, int, bool]]:
    return {(link.from_id, link.to_id, link.channel, link.bridged) for link in links}


def _dealt_places(design: Design) -> set[tuple[str, str, int, bool]]:
    return {_place(tree) for tree in _dealt(design)}


def _moved(link: SpeakerLink, tree: dict[str, Any]) -> dict[str, Any]:
    """A lead on another channel, or from another amplifier, whose way it takes then."""
    kept = link.model_dump(mode="json")
    if tree["from_id"] != link.from_id:
        kept = {key: value for key, value in kept.items() if key not in OF_THE_WAY}
    return {**kept, **tree, "id": link.id, "bridged": tree.get("bridged", False)}
