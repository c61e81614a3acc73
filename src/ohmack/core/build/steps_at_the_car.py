"""Steps at the car itself: the battery off, what comes off, ways through the bulkhead, cables laid, grounds made."""

from __future__ import annotations

from collections.abc import Mapping

from ohmack.core.build.laid_ways import new_crossings, passed_before
from ohmack.core.build.lists import SCREENED
from ohmack.core.build.step_book import StepBook
from ohmack.core.build.steps import HEADLINING_OFF, SEAT_OFF, Phase
from ohmack.core.document.grounding import bored_now, groundings
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.links import (
    FeedLink,
    GroundLink,
    LineLink,
    PowerLink,
    RemoteLink,
    SpeakerLink,
    TapPlace,
)
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.vehicle import Powertrain, SpeakerPlace
from ohmack.core.fit.far_ends import own_lead
from ohmack.core.fit.places import front_seat_over
from ohmack.core.fit.runs import Run, modules_met, over_loom_from, plays_over_the_loom
from ohmack.core.supply.own_runs import feeds_of_the_old
from ohmack.core.supply.second_battery import in_the_car, negatives
from ohmack.core.wording import count, listed

ROOF = ("Curtain airbags lie along its edges: never a yellow plug", "Two pairs of hands: a creased headlining stays so")
ALL_OF_THEM = "Every battery: one that stays on keeps its runs live, and the rest of the car through what charges it"
SEATS = {"driver": "Driver's seat", "passenger": "Passenger seat"}
SEAT = (
    "Its plugs only with the battery off and waited for: belt tensioner, airbag, occupancy mat",
    "Its bolts hold a person: the maker's torque on the way back, new bolts where the maker asks for them",
)
LONG_M = 1.0  # a run longer than this along the car lies under the sill trims
ALIKE = ("Every lead of it to one length off one reel, by one way: they share the current by their resistance",)
OLD_LEADS = "At the speaker: its old leads folded back, each end insulated by itself; they may still be live"
INTO_DOOR = (
    "A plug in the pillar instead of bellows: a free cavity, or beside its pins; never through one that is used",
    "Slack for the door wide open; clear of hinge, check strap and window",
)
SAME_DOOR_M = 0.5  # speakers on one side no farther apart along the car are in one door
ASIDE = 0.25  # of the car's half width: farther out a run lies under a sill
SILL = 0.85  # of it: there the sill trims are
REAR = 0.6  # of the car's length: farther back it is the load space
REAR_MIDDLE = 0.82


def before(book: StepBook) -> None:
    """What is tried, noted and switched off before anything is unplugged."""
    book.add("try-all", Phase.BEFORE, "Try everything the car does, every speaker, before it is touched", "try-all")
    if any(book.stays):
        words = listed([count(n, one) for n, one in zip(book.stays, ("part", "cable"), strict=True) if n])
        what = f"Look over what was there before and stays, {words}: rings tight, jackets whole, fuses as noted"
        book.add("look-over", Phase.BEFORE, what, "look-over", ("try-all",))
    if not book.wired:
        return
    note = f"Note clock, {'' if book.without_radio else 'stations, radio code, '}seat and window memory"
    book.add("note", Phase.BEFORE, note, "note", ("try-all",))
    vehicle, wait = book.design.vehicle, ""
    cautions = ["Negative first; no sparks, batteries give off hydrogen"]
    if vehicle.seat_airbags.value is not False:
        cautions.append("Wait the maker's time before any airbag plug is touched")
        wait = "; wait the maker's time"
    if vehicle.powertrain is not Powertrain.COMBUSTION and not vehicle.above_12_v:
        cautions.append("Orange cables are for qualified people only")
    live = in_the_car(book.design)
    if len(live) > 1:
        cautions.append(ALL_OF_THEM)
    where, what = vehicle.supply.batteries[0].position.point, f"{negatives(live)} off and covered{wait}"
    book.add("battery-off", Phase.BATTERY, what, "battery-off", ("note",), where, tuple(cautions))


def take_off(book: StepBook) -> None:
    """Radio, door panels, trims and sills the work goes behind."""
    vehicle, length_m, half_m = book.design.vehicle, *_size_m(book)
    if book.wired and _radio_comes_out(book):
        there = _in_the_dash(book)
        book.off("off-radio", f"{there} out of the dash", "off-radio", there, vehicle.radio.position.point)
    behind = {s.id for s, _ in book.swaps}
    behind |= {piece.at_id for piece in book.pieces}
    behind |= {k.to_id for k in book.design.new_links_of(SpeakerLink) if not k.factory_wire}
    tapped = {c for t in book.taps if t.place is TapPlace.LEADS for c in t.from_ids}
    for speaker in vehicle.speakers:
        if speaker.id in behind or speaker.channel_id in tapped or book.comes_out_at(speaker.position.point):
            if speaker.place is SpeakerPlace.CEILING:
                if HEADLINING_OFF not in book.steps:
                    what = "Headlining down, as far as its speakers want"
                    book.off(HEADLINING_OFF, what, HEADLINING_OFF, "Headlining", speaker.position.point, *ROOF)
                continue
            if speaker.in_new_box:
                continue  # it comes with its box
            kind, word = ("off-door", "panel") if speaker.place is SpeakerPlace.DOOR else ("off-trim", "trim")
            kept = ("Airbag behind it: never the yellow plug",) if speaker.place is SpeakerPlace.PILLAR else ()
            item = f"{speaker.name} {word}"
            book.off(f"off-{speaker.id}", f"{item} off", kind, item, speaker.position.point, *kept)
    for seat, where in _seats_over(book).items():
        book.off(f"off-seat-{seat}", f"{SEATS[seat]} off its bolts", SEAT_OFF, SEATS[seat], where, *SEAT)
    for module in modules_met(book.design):
        at = module.position.point
        if not front_seat_over(vehicle, *at) and at[0] <= REAR * length_m:
            item = f"Trim before {module.name}"
            book.off(f"off-{module.id}", f"{item} off", "off-trim", item, at)
    for side in _sills(book):
        where, item = (0.5 * length_m, (-SILL if side == "left" else SILL) * half_m), f"Sill trims, {side}"
        book.off(f"off-sill-{side}", item, "off-sill", item, where)
    if _in_the_rear(book):
        where = (REAR_MIDDLE * length_m, 0.0)
        book.off("off-rear", "Load space floor and side trim", "off-rear", "Load space trim", where)


def _in_the_dash(book: StepBook) -> str:
    """What is in the radio's place before the work: what comes out of it or was put there, else the car's own radio,
    or a cover where the car had none.
    """
    design = book.design
    out = next((one.name for one in design.coming_out if one.is_radio), None)
    there = out or next((unit.name for unit in design.parts_of(HeadUnit) if unit.in_car), None)
    return there or ("Cover of the radio's opening" if book.without_radio else design.vehicle.radio.name)


def _seats_over(book: StepBook) -> dict[str, tuple[float, float]]:
    """The front seats something is fixed, joined or comes out under, each with a place there."""
    vehicle, design = book.design.vehicle, book.design
    going = [one.position for one in design.coming_out]
    places = [part.position for part in design.parts if not part.in_car] + going
    places += [module.position for module in modules_met(design)]
    found: dict[str, tuple[float, float]] = {}
    for point in (place.point for place in places if place is not None):
        if seat := front_seat_over(vehicle, *point):
            found.setdefault(seat, point)
    return found


def _size_m(book: StepBook) -> tuple[float, float]:
    """(length, half of the width) of the car [m]; the usual ones where they were not measured."""
    return book.design.vehicle.length_m.value or 4.5, (book.design.vehicle.width_m.value or 1.8) / 2


def _radio_comes_out(book: StepBook) -> bool:
    """Whether something is done behind the radio."""
    design, radio = book.design, book.design.vehicle.radio
    own = {c.id for c in radio.channels}
    feeds = {f.id for f in design.vehicle.feeds} - {f.id for f in feeds_of_the_old(design)}
    taps = (t for t in book.taps if t.place is TapPlace.PLUG)
    done = any(unit.in_car for unit in design.parts_of(HeadUnit))  # its place was taken before
    return (
        (not done and any(i.id == radio.id for i in interventions_of(design)))
        or any(not own.isdisjoint(t.from_ids) for t in taps)
        or any(k.from_id == radio.id for k in design.new_links_of(LineLink))
        or any(over_loom_from(design, k) is radio for k in design.new_links_of(SpeakerLink))
        or any(k.from_id in feeds for k in design.new_links_of(FeedLink))
        or any(k.from_id in feeds for k in design.new_links_of(RemoteLink))
        or bool(book.behind_radio)
        or any(piece.behind_radio for piece in book.pieces)
        or any(radio.position.point in (row.points[0], row.points[-1]) for row in book.cables)
        or book.comes_out_at(radio.position.point)
    )


def _sills(book: StepBook) -> list[str]:
    """The sills some run lies under."""
    half_m, found = _size_m(book)[1], set()
    for points in book.ways:
        for (ax, ay), (bx, by) in zip(points, points[1:], strict=False):
            aside = (ay + by) / 2
            if abs(bx - ax) > LONG_M and abs(aside) > ASIDE * half_m:
                found.add("left" if aside < 0 else "right")
    return sorted(found)


def _in_the_rear(book: StepBook) -> bool:
    """Whether something is fixed, joined or grounded behind the seats."""
    length_m, runs, going = _size_m(book)[0], book.results.runs, book.design.coming_out
    touched = [runs[tie.id].points for tie in book.ties if tie.id in runs]
    touched += [tuple(p.point for p in (*one.way, *([one.position] if one.position else []))) for one in going]
    ends = [point for points in touched if points for point in (points[0], points[-1])]
    return any(x > REAR * length_m for x, _ in ends)


def lay(book: StepBook) -> None:
    """Ways through the bulkhead, then every cable of its own from end to end."""
    _old_out(book)
    _open_ways(book)
    into = _into_doors(book)
    ways = book.named("drill-", "through-")
    sizes = {row.link_id: row.size for row in book.results.wire_rows}
    had_leads = {s.id for s in book.design.vehicle.speakers if s.channel_id is not None and not s.new_place}
    bundles = _bundles(book, sizes)
    for link in book.links:
        run = book.results.runs.get(link.id)
        if run is None or isinstance(link, GroundLink) or plays_over_the_loom(book.design, link):
            continue
        if link.id in bundles:
            _lay_bundle(book, *bundles[link.id], sizes[link.id])
            continue
        size = sizes.get(link.id) or "Cable"
        what = f"{'Screened cable' if size == SCREENED else size} from {run.start_name} to {run.end_name}"
        middle = run.points[len(run.points) // 2] if run.points else None
        thick = isinstance(link, PowerLink)
        kind, fresh = "lay-thick" if thick else "lay", isinstance(link, SpeakerLink) and not link.factory_wire
        mind = (OLD_LEADS,) if fresh and link.to_id in had_leads else ALIKE if thick and link.wire.leads > 1 else ()
        through = ways if thick else (into[link.to_id],) if fresh and link.to_id in into else ()
        leads = link.wire.leads if thick else 1
        _lay(book, link.id, what, kind, run.length.value, middle, through, mind, leads)
    for row in book.cables:
        own, to = book.design.part(row.link_id), f"from {row.start} to {row.end}"
        what = f"{row.purpose} {to}" if own_lead(own) else f"{'Knob' if own is not None else row.size} cable {to}"
        _lay(
            book,
            f"knob-{row.link_id}" if own is not None else row.link_id,
            what,
            "lay",
            row.length_m,
            row.points[0],
            (),
        )
    for feed in (feed for feed in book.results.pack_feeds if not feed.part.in_car):
        what = f"{feed.wire.value or 'Cable'} from {feed.battery.name} to {feed.part.name}, both poles"
        where = feed.part.position.point if feed.part.position is not None else None
        _lay(book, feed.part.id, what, "lay-thick", feed.length.value, where, ways)


def _bundles(book: StepBook, sizes: Mapping[str, str]) -> dict[str, tuple[str, list[Run]]]:
    """The leads of one size from a part to one plug of the loom, which are laid in one go: (plug, all of them), by the
    link of each.
    """
    found: dict[tuple[str, str, str], list[Run]] = {}
    for link in (link for link in book.links if isinstance(link, SpeakerLink)):
        source, run = over_loom_from(book.design, link), book.results.runs.get(link.id)
        if source is not None and run is not None and link.id in sizes:
            found.setdefault((link.from_id, f"{source.name}'s plug", sizes[link.id]), []).append(run)
    return {run.link.id: (plug, runs) for (_, plug, _), runs in found.items() if len(runs) > 1 for run in runs}


def _lay_bundle(book: StepBook, plug: str, runs: list[Run], size: str) -> None:
    """File that leads to one plug are laid together, once."""
    first, name = runs[0], f"lay-{runs[0].link.id}"
    if name in book.steps:
        return
    pairs = "; ".join(run.end_name.removeprefix(f"{plug}, ").removesuffix(" pair") for run in runs)
    what = f"{len(runs)} × {size} from {first.start_name} to {plug}: {pairs}"
    lengths = [run.length.value for run in runs if run.length.value is not None]
    middle = first.points[len(first.points) // 2] if first.points else None
    _lay(book, first.link.id, what, "lay", max(lengths, default=None), middle, (), leads=len(runs))
    book.within.update({f"lay-{run.link.id}": name for run in runs[1:]})


def _into_doors(book: StepBook) -> dict[str, str]:
    """The step that opens the way into a door, by speaker on new wire there; speakers in one door share it."""
    fresh = {k.to_id for k in book.links if isinstance(k, SpeakerLink) and not k.factory_wire}
    doors = [s for s in book.design.vehicle.speakers if s.in_door and s.id in fresh]
    found: dict[str, str] = {}
    for door in doors:
        same = (s for s in doors if s.id in found and s.side == door.side)
        there = next((s for s in same if abs(s.position.x_m - door.position.x_m) < SAME_DOOR_M), None)
        if there is not None:
            found[door.id] = found[there.id]
            continue
        what = f"Into {door.name}: bellows off at the pillar, a pull wire through beside the loom"
        needs, where = ("battery-off", *book.taken), door.position.point
        book.add(f"into-{door.id}", Phase.LAY, what, "into-door", needs, where, INTO_DOOR)
        found[door.id] = f"into-{door.id}"
    return found


def _old_out(book: StepBook) -> None:
    """Cables that new ones take the place of."""
    for link in (link for link in book.links if link.old_out):
        run = book.results.runs[link.id]
        what = f"Old cable from {run.start_name} to {run.end_name} out, or both its ends cut back and insulated"
        mind = ("At the battery first: no end of it stays live",) if isinstance(link, PowerLink) else ()
        where = run.points[0] if run.points else None
        times = book.times_for("old-out", run.length.value)
        book.add(f"old-{link.id}", Phase.LAY, what, "old-out", ("battery-off", *book.taken), where, mind, times=times)


def _lay(
    book: StepBook, name: str, what: str, kind: str, length_m: float | None, where: tuple[float, float] | None,
    ways: tuple[str, ...], mind: tuple[str, ...] = (), leads: int = 1,
) -> None:  # fmt: skip
    length = f", {book.results.say(length_m, 'm')}" if length_m else ""
    kept = ("Clear of pedals, seat rails, hinges and airbags",) if (length_m or 0) > LONG_M else ()
    needs, times = ("cut-cables", *book.taken, *ways), book.times_for(kind, length_m, leads)
    book.add(f"lay-{name}", Phase.LAY, what + length, kind, needs, where, (*kept, *mind), times=times)


def _open_ways(book: StepBook) -> None:
    """Passages some power run takes: drilled, or only gone through."""
    used, open_before = {crossing.passage_id for crossing in new_crossings(book.results)}, passed_before(book.results)
    for passage in (p for p in book.design.vehicle.passages if p.id in used):
        where, needs = passage.position.point, ("battery-off", *book.named("off-sill"))
        if passage.needs_drilling.value is False or passage.id in open_before:
            what = f"Through {passage.name}, with its grommet"
            book.add(f"through-{passage.id}", Phase.LAY, what, "passage", needs, where)
            continue
        look = book.look_behind(passage.id, passage.name, Phase.LAY, needs, where)
        what, mind = f"Drill {passage.name}, prime the edge, grommet", ("Look behind before drilling",)
        book.add(f"drill-{passage.id}", Phase.LAY, what, "drill", (look,), where, mind, one_shot=True)


def ground(book: StepBook) -> None:
    """Every ground point something is grounded at, bored or found."""
    used = {one.point.id for one in groundings(book.design) if not one.in_car}
    drilled = {point.id for point in bored_now(book.design)}
    for point in (p for p in book.design.vehicle.ground_points if p.id in used):
        bored = point.id in drilled
        needs: tuple[str, ...] = ("battery-off", *book.taken)
        if bored:
            needs = (book.look_behind(point.id, point.name, Phase.FIT, needs, point.position.point),)
        what = f"{point.name}: {'drilled, ' if bored else ''}bare metal, star washer, sealed after"
        mind = ("Look behind before drilling",) if bored else ()
        book.add(f"ground-{point.id}", Phase.FIT, what, "ground", needs, point.position.point, mind, one_shot=bored)
