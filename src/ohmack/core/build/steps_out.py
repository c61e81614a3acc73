"""Steps that take what was in the car out of it and make good: battery side first, joints and holes last."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.build.outgoing import going_back
from ohmack.core.build.step_book import StepBook
from ohmack.core.build.steps import Phase
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Module
from ohmack.core.document.interventions import comes_out, factory_amplifier, interventions_of
from ohmack.core.document.outgoing import Goes, Outgoing
from ohmack.core.physics.geometry import Point, plan_length_m


def take_out(book: StepBook) -> None:
    """Fuses and rings off the posts, cables, parts; each after what lies over it."""
    going, freed = book.design.coming_out, ("battery-off", *book.taken)
    live = [one for one in going if one.goes is Goes.CABLE and one.live]
    if live:
        what = "Fuses out of what comes out, its rings off the posts, their ends covered"
        book.add("out-live", Phase.OUT, what, "join-post", freed, _where(live[0]))
    for one in going:
        if one.goes is Goes.CABLE:
            what = f"{one.name} {'stays: both its ends cut back and insulated' if one.stays else 'out'}"
            mind = ("At the battery first: no end of it stays live",) if one.live else ()
            way = [spot.point for spot in one.way]
            times = book.times_for("old-out", 0.0 if one.stays else plan_length_m(way) if len(way) > 1 else None)
            book.add(f"out-{one.id}", Phase.OUT, what, "old-out", (*freed, "out-live"), _where(one), mind, times=times)
    cables = book.named("out-")
    for module in modules_out(book.design):
        what = f"{module.name} out, its plugs marked and covered; kept for the way back"
        book.add(f"out-{module.id}", Phase.OUT, what, "out-part", (*freed, *cables), module.position.point)
    for one in going:
        if one.goes is Goes.PART:
            mind = ("Negative off first, its posts covered",) if one.is_battery else ()
            book.add(f"out-{one.id}", Phase.OUT, f"{one.called} out", "out-part", (*freed, *cables), _where(one), mind)


def modules_out(design: Design) -> Iterator[Module]:
    """The modules of the car that come out for good in this job: not those a job before took out."""
    plugged = next((a for a in design.parts_of(Amplifier) if a.plugs_in), None)
    begun, modules = any(part.in_car for part in design.parts), {m.id: m for m in design.vehicle.modules}
    for act in interventions_of(design):
        module = modules.get(act.id)
        if module is None or not comes_out(act):
            continue
        before = plugged.in_car if plugged is not None and module is factory_amplifier(design) else begun
        if not before:
            yield module


def make_good(book: StepBook) -> None:
    """Holes closed, the car's own wires joined, what was there before back in its place."""
    out, back = book.of_phase(Phase.OUT), going_back(book.results)
    for one in book.design.coming_out:
        if one.goes is Goes.HOLE:
            book.add(f"close-{one.id}", Phase.FIT, one.name, "close-hole", out, _where(one))
        elif one.goes is Goes.JOINT:
            book.add(f"undo-{one.id}", Phase.JOIN, one.name, "join-wires", out, _where(one))
        elif one in back and not one.is_radio:  # that one goes into the dash when it is closed
            what = f"{one.instead[:1].upper()}{one.instead[1:]} back into {one.place}"
            book.add(f"instead-{one.id}", Phase.FIT, what, "fix-speaker", (f"out-{one.id}",), _where(one))


def _where(one: Outgoing) -> Point | None:
    return one.position.point if one.position is not None else None
