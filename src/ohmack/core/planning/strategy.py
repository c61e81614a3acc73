"""Choosing a strategy: what happens to the modules, and the parts it needs from the catalogue, placed and wired."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.functions import Act, Intervention
from ohmack.core.document.handles import at
from ohmack.core.document.part import Stands
from ohmack.core.document.parts import Part
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.errors import UnknownName
from ohmack.core.factory.advice import advise
from ohmack.core.factory.evidence import room_for_amplifier
from ohmack.core.factory.roles import ON_ONE, ORDER, ROLE_KINDS, filled, fits_role
from ohmack.core.factory.strategies import Candidate
from ohmack.core.factory.way_acts import kept_by_choice, way_of
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.role_parts import choose_part
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.record import record
from ohmack.core.wording import listed


def candidate(design: Design, key: str) -> Candidate:
    """One strategy of the advice.

    Raises:
        UnknownName: no such strategy, or this car does not allow it.
    """
    found = next((c for c in advise(design).ranked if c.key.value == key), None)
    if found is None:
        raise UnknownName("strategy", key, ", ".join(k.value for k in StrategyKey))
    if not found.possible:
        raise UnknownName("strategy for this car", key, found.why_not)
    return found


@record
class Laying:
    """What choosing a way does: the edits, and what they put in, take out, keep as a person chose, and leave without
    use.
    """

    edits: tuple[Edit, ...]
    put_in: tuple[str, ...]
    taken_out: tuple[str, ...]
    kept: tuple[str, ...]
    idle: tuple[str, ...]

    @property
    def sentence(self) -> str:
        """What was done, for a person to read."""
        parts = [
            f"Put in: {listed(list(self.put_in))}." if self.put_in else "",
            f"Taken out, put in by the way before: {listed(list(self.taken_out))}." if self.taken_out else "",
            f"Kept as you chose it: {listed(list(self.kept))}." if self.kept else "",
            f"Left in the plan though this way has no use for it: {listed(list(self.idle))}." if self.idle else "",
        ]
        return " ".join(p for p in parts if p) or "Every part this way needs was in the plan already."


def lay_strategy(design: Design, key: str, catalogue: Iterable[dict[str, Any]]) -> Laying:
    """Choose a strategy: interventions, the parts it needs and lacks, and their links; what another way laid goes out
    again.

    Parameters:
        design: the design.
        key: one of StrategyKey.
        catalogue: part trees to choose from; parts a person put in, ordered or was given stay.

    Returns:
        the edits and what they do.

    Raises:
        UnknownName: no such strategy, or this car does not allow it.
    """
    chosen = candidate(design, key)
    trees = list(catalogue)
    roles = sorted((r for r in chosen.needs if r in ROLE_KINDS), key=ORDER.index)
    former = _former_roles(design) - set(roles)
    useless = [p for p in design.parts if not p.in_car and _role_of(p) in former]
    gone = [p for p in useless if p.laid_by is not None and p.stands is Stands.WANTED and not p.by_customer]
    edits: list[Edit] = [
        Edit(path="strategy", value=chosen.key.value),
        Edit(path="interventions", value=[i.model_dump(mode="json") for i in chosen.interventions]),
        *(Edit(op="remove", path=at(part)) for part in gone),
        *_silenced(design, chosen),
    ]
    now = apply_edits(design, edits)
    put_in = []
    for role in roles:
        tree = None if filled(now, role) else choose_part(now, role, trees)
        if tree is not None:
            laid = {k: v for k, v in tree.items() if k not in ("id", "position")} | {"laid_by": chosen.key.value}
            room = room_for_amplifier(now) if role == "amplifier" and key == StrategyKey.RADIO_BYPASS.value else None
            placed = place_part(now, laid, room.position if room is not None else None)
            edits += placed
            now = apply_edits(now, placed)
            put_in.append(tree["name"])
    first = next((a.id for a in now.parts_of(Amplifier) if chosen.key is StrategyKey.RADIO_BYPASS), "")
    wires = connect_everything(now, first)
    names = {design.vehicle.radio.id: "radio", **{m.id: m.name for m in design.vehicle.modules}}
    mine = kept_by_choice(design)
    kept = [
        f"{m.value} ({names.get(i.id, i.id)})"
        for i in chosen.interventions
        for m in i.keep_alive
        if m in mine.get(i.id, ())
    ]
    idle = [p.name for p in useless if p not in gone]
    return Laying((*edits, *wires), tuple(put_in), tuple(p.name for p in gone), tuple(kept), tuple(idle))


def _silenced(design: Design, chosen: Candidate) -> list[Edit]:
    """The works subwoofer whose place a new one takes falls silent on purpose; on another way it plays again."""
    before = _behind_bypassed(design, design.interventions) if design.strategy in ON_ONE else set()
    now = _behind_bypassed(design, chosen.interventions) if chosen.key in ON_ONE else set()
    return [
        Edit(path=at(s, lambda it: it.left_silent), value=s.id in now)
        for s in design.vehicle.speakers
        if s.id in before ^ now
    ]


def _behind_bypassed(design: Design, acts: Iterable[Intervention]) -> set[str]:
    """The speakers of the modules that are bypassed."""
    gone = {act.id for act in acts if act.act is Act.BYPASSED}
    channels = {channel.id for module in design.vehicle.modules if module.id in gone for channel in module.channels}
    return {s.id for s in design.vehicle.speakers if s.channel_id in channels}


def _role_of(part: Part) -> str:
    """The role a part fills; empty where it fills none that a strategy names."""
    return next((role for role in ROLE_KINDS if fits_role(role, part)), "")


def _former_roles(design: Design) -> set[str]:
    """What the ways chosen before needed: the present one, and those that left parts behind."""
    ways = {p.laid_by for p in design.parts if p.laid_by} | ({design.strategy} if design.strategy else set())
    former = {_role_of(p) for p in design.parts if p.laid_by}
    for way in ways:
        former |= set(way_of(way)["needs"])
    return former - {""}


def not_in_catalogue(design: Design, key: StrategyKey) -> tuple[str, ...]:
    """What a chosen strategy needs that no part of the design fills."""
    return tuple(r for r in candidate(design, key.value).needs if r in ROLE_KINDS and not filled(design, r))


@record
class PricedRole:
    """One thing a strategy needs: the part that would fill it, and its price; no part where the catalogue has none."""

    role: str
    part: str
    price: float | None
    here: bool


def priced(design: Design, chosen: Candidate, catalogue: Iterable[dict[str, Any]]) -> tuple[PricedRole, ...]:
    """What a strategy would cost with the parts there are: those of the plan first, then the cheapest that suit.

    Parameters:
        design: the design.
        chosen: the strategy.
        catalogue: part trees.

    Returns:
        one row for each role that is a part, in the order they are laid.
    """
    trees, rows = list(catalogue), []
    design = design.model_copy(update={"strategy": chosen.key})  # as if it were chosen
    for role in sorted((r for r in chosen.needs if r in ROLE_KINDS), key=ORDER.index):
        own = [part for part in design.parts if fits_role(role, part)]
        if own:
            paid = {part.id: 0.0 if part.by_customer or part.in_car else part.price for part in own}
            rows += [PricedRole(role, part.name, paid[part.id], True) for part in own]
            continue
        if role == "converter" and filled(design, role):
            continue  # the amplifier that is chosen does without
        tree = choose_part(design, role, trees)
        if tree is not None and role in ("driver", "amplifier"):
            design = apply_edits(design, place_part(design, tree))  # what is to go with it is chosen by it
        rows.append(PricedRole(role, tree["name"] if tree else "", tree.get("price") if tree else None, False))
    return tuple(rows)


def total_price(rows: Iterable[PricedRole]) -> float | None:
    """The sum of the prices; None where one of them is not known."""
    prices = [row.price for row in rows]
    return sum(p for p in prices if p is not None) if all(p is not None for p in prices) else None
