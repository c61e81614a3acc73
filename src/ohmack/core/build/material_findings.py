"""Rules on what was bought by the metre and by the piece: wire, fuses, blocks against what the plan needs."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.cut_list import is_cut_from
from ohmack.core.build.fuses_there import holds_its_fuse
from ohmack.core.build.line_cables import lines_laid
from ohmack.core.build.lists import SCREENED, WireRow
from ohmack.core.build.plug_adapters import MEETS_THE_PLUG, has_radio_adapter, missing_adapters, unplugged_joints
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, cavity_at
from ohmack.core.document.harness import JointMethod
from ohmack.core.document.links import GroundLink, PowerLink, RemoteLink
from ohmack.core.document.part import Stands
from ohmack.core.document.parts import Accessory, CableReel, DistributionBlock, FuseLink, HeadUnit
from ohmack.core.errors import UnknownName
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, set_to, stop, watch
from ohmack.core.harness.joints import Joint
from ohmack.core.physics.conductors import CCA, MATERIALS, Conductor, conductor, goes_in
from ohmack.core.physics.protection import family
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.study import terminals_of
from ohmack.core.supply.wire_choice import AS_GOOD
from ohmack.core.wording import count, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def _metres(row: WireRow) -> float:
    """Metres of single wire in one line of the wire list; a line says how many wires lie side by side."""
    _, _, times = row.size.partition(" × ")
    wires = int(times) if times else 2 if row.purpose == "Speaker" else 1
    return (row.length_m or 0.0) * wires


CLAD = f" of {MATERIALS[CCA]}"


def _called(row: WireRow) -> str:
    return row.size.partition(" × ")[0] + (CLAD if row.clad else "")


@rule("wire-on-reel", "plan", PHYSICS)
def wire_on_reel(results: Results) -> Iterator[Draft]:
    """A reel is short, or of a size no run takes."""
    for reel in results.design.parts_of(CableReel):
        try:
            label = conductor(reel.wire_size, reel.material).label
        except UnknownName as error:
            yield watch(
                reel.id,
                f"{reel.name}: no figures on file for this size",
                str(error),
                Remedy("Look at it", path=at(reel)),
            )
            continue
        cut, clad = [row for row in results.wire_rows if not row.in_car], reel.material == CCA
        colours = {row.colour for row in cut}
        rows = [
            row
            for row in cut
            if row.length_m and is_cut_from(reel, row.size.partition(" × ")[0], row.clad, row.colour, colours)
        ]
        if not rows:
            sizes = dict.fromkeys(_called(row) for row in cut if row.size and row.size != SCREENED)
            wants = f"the plan wants {listed(list(sizes))}" if sizes else "nothing is cut in this plan"
            press, against = _laid_with(results, reel)
            yield watch(
                reel.id,
                f"No run of this plan takes {label}{CLAD if clad else ''}",
                f"{reel.name}: {wants}.{against} A kit's label says nothing about the car it goes into.",
                press or Remedy("See the wire list", sheet="build"),
            )
            continue
        needed_m = sum(_metres(row) for row in rows)
        if needed_m > reel.on_reel_m:
            yield watch(
                reel.id,
                f"{reel.name} is {results.say(needed_m - reel.on_reel_m, 'm')} short",
                f"{results.say(needed_m, 'm')} of {label}{CLAD if clad else ''} are to be cut,"
                f" {results.say(reel.on_reel_m, 'm')} are on it. A power wire is never pieced together.",
                Remedy("See the wire list", sheet="build"),
            )


LAID_WITH: dict[str, tuple[type[PowerLink | GroundLink | RemoteLink], str, str]] = {
    "": (PowerLink, "power run", "power runs"),
    "red": (PowerLink, "power run", "power runs"),
    "black": (GroundLink, "ground run", "ground runs"),
    "blue": (RemoteLink, "switch-on wire", "switch-on wires"),
}


def _laid_with(results: Results, reel: CableReel) -> tuple[Remedy | None, str]:
    """(a press that lays the new runs that take it with what is on a reel, by its colour; why one does not, in words).
    It is judged as their wire then.
    """
    if reel.colour not in LAID_WITH:
        return None, ""
    kind, one, many = LAID_WITH[reel.colour]
    wire = conductor(reel.wire_size, reel.material)
    new: list[PowerLink | GroundLink | RemoteLink] = [run for run in results.design.links_of(kind) if not run.in_car]
    against = {run.id: _against(results, run, wire, reel.material == CCA) for run in new}
    runs = [run for run in new if not against[run.id]]
    taken = {"size": reel.wire_size, "material": reel.material, "strand_count": None, "strand_diameter_mm": None}
    edits = tuple(
        set_to(at(run, lambda it: it.wire), run.wire.model_dump(mode="json") | taken | {"leads": 1}) for run in runs
    )
    words = next((f" {wire.label}, {reason}." for reason in against.values() if reason), "")
    return (Remedy(f"Lay the {one if len(edits) == 1 else many} with it", edits) if edits else None), words


def _against(results: Results, run: PowerLink | GroundLink | RemoteLink, wire: Conductor, clad: bool) -> str:
    """Why a run does not take a wire, in words; "" where it does, or where that is not known."""
    if isinstance(run, RemoteLink):
        return ""
    part = results.design.part(run.from_id if isinstance(run, GroundLink) else run.to_id)
    most_mm2, to = getattr(part, "terminal_area_max_mm2", None), f"to {part.name if part is not None else run.to_id}"
    if most_mm2 is not None and not goes_in(wire, most_mm2, terminals_of(part)):
        return f"{to}: does not go into its terminal"
    supply = next((s for s in results.supplies if run.id in (s.link.id, s.ground.id if s.ground else "")), None)
    if supply is None or supply.chosen is None:
        return f"{to}: what flows there is not known yet"
    if isinstance(run, GroundLink):
        less = wire.resistance_ohm_per_m > supply.chosen.wire.resistance_ohm_per_m * AS_GOOD
        return f"{to}: conducts less than the {supply.chosen.wire.label} power wire" if less else ""
    judged = next((c for c in supply.candidates if c.wire.label == wire.label), None)
    if judged is None or judged.fits or run.wire.material == CCA:
        return ""
    return f"{to}{', even of copper' if clad else ''}: {judged.reason}"


@rule("line-cable-bought", "plan", PRACTICE)
def line_cable_bought(results: Results) -> Iterator[Draft]:
    """A line cable with plugs that no line run takes: too short, or one too many."""
    found = lines_laid(results)
    unread = any(row.size == SCREENED and row.length_m is None for row in results.wire_rows)
    for cable in dict.fromkeys(found.spare):
        spare = found.spare.count(cable)
        short = min((row for row in found.open_rows), key=lambda row: row.length_m or 0.0, default=None)
        if short is not None:
            yield watch(
                cable.id,
                f"{cable.name} is {results.say((short.length_m or 0.0) - cable.length_m, 'm')} short"
                f" from {short.start} to {short.end}",
                f"The run is {results.say(short.length_m or 0.0, 'm')}. Two cables plugged together are a joint that"
                " hums; take one that reaches.",
                find_part("Find one that reaches", cable.kind, cable.id),
            )
        elif not unread:
            fewer = set_to(at(cable, lambda it: it.pieces), cable.pieces - spare)
            yield watch(
                cable.id,
                f"{cable.name}: {'no line run takes it' if spare == cable.pieces else f'{spare} too many'}",
                "It is bought and charged all the same.",
                Remedy("Take it out", (Edit(op="remove", path=at(cable)),))
                if spare == cable.pieces
                else Remedy("Take as many as there are runs", (fewer,)),
            )


@rule("fuse-bought", "plan", PRACTICE)
def fuse_bought(results: Results) -> Iterator[Draft]:
    """A fuse of a rating the plan does not ask for, or too few of them."""
    supplies = (supply for supply in results.supplies if supply.link.fuse and not holds_its_fuse(supply.link))
    wanted = [(s.family, s.figures["fuse"].value) for s in supplies for _ in range(s.link.fuse_count)]
    wanted += [("blade", f.fuse.value) for f in results.feeds if f.link.fuse and not holds_its_fuse(f.link)]
    for fuse in results.design.parts_of(FuseLink):
        same = [rating for kind, rating in wanted if kind == fuse.family and rating is not None]
        if not same and not fuse.in_car:
            yield watch(
                fuse.id,
                f"{fuse.name}: no {family(fuse.family).title.lower()} fuse is wanted in this plan",
                "It is bought and charged all the same.",
                Remedy("Take it out", (Edit(op="remove", path=at(fuse)),)),
            )
        elif same and fuse.rating_a not in same:
            bigger = fuse.rating_a > min(same)  # it could go into the circuit that wants the smallest
            draft = stop if bigger else watch
            yield draft(
                fuse.id,
                f"{fuse.name}: the plan wants {listed([f'{trimmed(a)} A' for a in dict.fromkeys(same)])}",
                f"{'A bigger fuse does not protect this wire.' if bigger else 'A smaller fuse blows at full level.'}"
                " Without it the order asks for the right one.",
                Remedy("Take it out", (Edit(op="remove", path=at(fuse)),)),
            )
        elif same.count(fuse.rating_a) > fuse.pieces:
            yield watch(
                fuse.id,
                f"{count(same.count(fuse.rating_a), 'fuse')} of {trimmed(fuse.rating_a)} A wanted, {fuse.pieces}"
                " bought",
                "Buy one more than the plan needs: the first one to blow does it on a Saturday.",
                Remedy(
                    f"Buy {same.count(fuse.rating_a) + 1}",
                    (set_to(at(fuse, lambda it: it.pieces), same.count(fuse.rating_a) + 1),),
                ),
            )


@rule("distribution-block", "plan", PRACTICE)
def distribution_block(results: Results) -> Iterator[Draft]:
    """A block has too few ways; whether its terminals take the wires is judged with the wires."""
    for block in results.design.parts_of(DistributionBlock):
        hanging = [link for link in results.design.links_of(PowerLink) if link.from_id == block.id]
        hanging_back = [link for link in results.design.links_of(GroundLink) if link.to_id == block.id]
        taken = sum(link.fuse_count if link.fuse_each else 1 for link in hanging)
        wanted = max(taken, len(hanging_back))
        if wanted > block.ways:
            yield stop(
                block.id,
                f"{block.name} has {count(block.ways, 'way')}, {count(wanted, 'wire')} go into it",
                "Two wires under one screw come loose. Take a block with a way for each.",
                Remedy("Choose another block", sheet="plan"),
            )


@rule("radio-unjoined", "plan", PRACTICE)
def radio_unjoined(results: Results) -> Iterator[Draft]:
    """A new radio goes in, and nobody said how it meets the car's plug."""
    design = results.design
    unit = next(design.new_parts_of(HeadUnit), None)
    if unit is None or design.radio_hidden or not design.vehicle.has_known_plug or design.vehicle.connectors:
        return
    if has_radio_adapter(design):
        return
    yield stop(
        unit.id,
        f"{unit.name}: how it meets the car's plug is not decided",
        "An adapter made for this car's plug, or the plug mapped in Harness and its wires joined one by one. Without"
        " either nobody looked at its feeds, its ground and its speaker leads.",
        find_part("Find one", "accessory"),
    )


# What is sold for the plugs, the bus or the ring of certain cars.
MADE_FOR_SOME = frozenset((*MEETS_THE_PLUG, "line adapter", "interface", "ring coupler", "extension loom"))


@rule("made-for-which", "plan", PRACTICE)
def made_for_which(results: Results) -> Iterator[Draft]:
    """A part goes on plugs of the car, it is not ordered yet, and no list on file says that it is made for this one."""
    design = results.design
    amplifiers = (part for part in design.new_parts_of(Amplifier) if part.plugs_in)
    others = (part for part in design.new_parts_of(Accessory) if part.category in MADE_FOR_SOME)
    if parts := [part for part in (*amplifiers, *others) if part.stands is Stands.WANTED]:
        names = listed(list(dict.fromkeys(part.name for part in parts)))
        yield note(
            parts[0].id,
            f"Made for this car? {names}",
            "What goes on its plugs, its bus or its ring is made for certain models, years and systems. Look this one"
            " up in the maker's list, and hold it against the plug, before it is ordered.",
        )


@rule("adapter-missing", "plan", PRACTICE)
def adapter_missing(results: Results) -> Iterator[Draft]:
    """The plan picks a signal up through a plug adapter, and none is among the parts."""
    for tap, name in missing_adapters(results):
        yield stop(
            tap.id,
            f"{name} takes its signal by plug adapter: none for it is among the parts",
            "Choose the adapter made for this car's plug, or splice.",
            (
                find_part("Find one", "accessory")
                if results.design.intake.reversible
                else Remedy("Splice instead", (set_to(at(tap, lambda it: it.method), "splice"),))
            ),
        )
    plugged = unplugged_joints(results)
    if plugged:
        yield stop(
            plugged[0].unit_id,
            f"{count(len(plugged), 'joint')} of {plugged[0].unit} by plug adapter: none is among the parts",
            "Choose the adapter made for this car's plug, or join its wires one by one.",
            find_part("Find one", "accessory")
            if results.design.intake.reversible
            else Remedy("Join them one by one", tuple(_without_adapter(joint) for joint in plugged)),
        )


def _without_adapter(joint: Joint) -> Edit:
    """The edit that joins one wire by the best of the other methods."""
    best = next(judged for judged in joint.ranked if judged.method is not JointMethod.ADAPTER)
    return set_to(f"{cavity_at(joint.connector, joint.cavity)}/joint", best.method.value)
