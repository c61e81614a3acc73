"""What switches a part on, and its lead laid anew once something better does."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import RemoteLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.document.small_parts import SwitchingRelay
from ohmack.core.document.vehicle import Feed, FeedRole, KeyState
from ohmack.core.planning.laying import laid
from ohmack.core.signal.switch_on import PREFERENCE

Switch = Converter | HeadUnit | Accessory | Feed
Switched = Amplifier | Converter | PoweredSubwoofer


def switch_of(design: Design, part: Switched) -> Switch | None:
    """What switches a part on.

    Parameters:
        design: the design.
        part: it.

    Returns:
        the remote lead of a new radio, the car's own, the power-aerial lead; for an amplifier a converter that has an
        output for it; the output of a bus interface; else the first feed that is live with the key and dead without
        it. An amplifier follows a converter that is switched itself before all of them. None where there is nothing.
        Source: common practice.
    """
    giving = [c for c in design.parts_of(Converter) if c.remote_out_limit_a and isinstance(part, Amplifier)]
    if follows := next((c for c in giving if not c.senses_audio), None):
        return follows
    unit = next((u for u in design.parts_of(HeadUnit) if u.remote_out_limit_a), None)
    box = next((a for a in design.parts_of(Accessory) if a.remote_out_limit_a), None)
    alive = [f for f in design.vehicle.feeds if f.live.value and KeyState.ASLEEP not in f.live.value]
    alive.sort(key=lambda f: PREFERENCE.index(f.role) if f.role in PREFERENCE else len(PREFERENCE))
    with_the_radio = next((f for f in alive if f.role in (FeedRole.REMOTE, FeedRole.AERIAL)), None)
    sources: tuple[Switch | None, ...] = (unit, with_the_radio, next(iter(giving), None), box, *alive)
    return next((source for source in sources if source is not None), None)


def lead_to(design: Design, source: Switch, part_id: str) -> dict[str, Any]:
    """The link without an id that switches a part on: over the relay where one is bought."""
    tree = {"kind": "remote", "from_id": source.id, "to_id": part_id}
    return {**tree, "relay": True} if any(design.new_parts_of(SwitchingRelay)) else tree


def leads_anew(before: Design, after: Design) -> tuple[Edit, ...]:
    """Edits that lay switch-on leads from what switches best now, where they came from what did before.

    Parameters:
        before: the design before some parts were added.
        after: the design with them, wired.

    Returns:
        the edits; none for a lead somebody chose or one that lies in the car. What was taped of a lead says nothing of
        its new way.
    """
    edits = []
    for lead in after.links_of(RemoteLink):
        part = after.part(lead.to_id)
        if not isinstance(part, Switched) or lead.in_car:
            continue
        was, now = switch_of(before, part), switch_of(after, part)
        if was is not None and now is not None and lead.from_id == was.id != now.id:
            edits.append(Edit(path=at(lead, lambda it: it.from_id), value=now.id))
            edits.append(Edit(path=at(lead, lambda it: it.tape_length_m), value={"value": None}))
    return laid(after, edits)
