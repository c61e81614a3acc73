"""The plan of proof: every check that a car wired by a plan has to pass, in order, derived from the plan."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from ohmack.core.document.design import Keep
from ohmack.core.document.functions import FunctionKind
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import Accessory, DistributionBlock, HeadUnit
from ohmack.core.factory.function_edits import promised_absent
from ohmack.core.factory.functions import Fate
from ohmack.core.fit.far_ends import own_lead
from ohmack.core.fit.zones import near_the_roof
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.prove.car import Car, Output, Setting, SmallFeed
from ohmack.core.prove.checks import METERS, Check, Spot, Spots, minutes_of
from ohmack.core.prove.levels_to_prove import level_checks, tweeters_filters
from ohmack.core.prove.points import BODY, battery_of, far_of, is_itself, itself, minus_of, near_of, plus_of, remote_of
from ohmack.core.prove.probes import Ask, Probe, Quantity
from ohmack.core.supply.second_battery import negatives
from ohmack.core.wording import lowered, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

BATTERY, FUSE, MADE_GOOD = "dead/battery", "dead/fuse", "dead/made-good"
KEYS = (Setting.ASLEEP, Setting.ACCESSORY, Setting.ON, Setting.CRANKING)
AIRBAG = "Yellow plugs are never probed. Battery off and the maker's wait over before one is touched."


def plan_of_proof(results: Results) -> tuple[Check, ...]:
    """Every check of a plan, gate by gate.

    Parameters:
        results: the evaluated plan.

    Returns:
        the checks in the order they are made; each id stays the same while what it is about stays.

    Source: what is checked in which order: common practice.
    """
    car, spots = results.car, Spots(results)
    found = (*_dead(results, car, spots), *_live(results, car, spots), *level_checks(results, car, spots))
    if results.design.vehicle.starts:
        return found
    said = results.design.vehicle.as_said
    return tuple(replace(one, title=said(one.title), how=said(one.how)) for one in found)


def new_outputs(results: Results, car: Car) -> tuple[Output, ...]:
    """The outputs this plan wires, or makes as they were: all but what the car's own radio and amplifier drive as they
    always did.
    """
    swapped = {one.speaker_id for one in results.design.coming_out if one.speaker_id is not None}
    swapped |= {name for part in results.design.parts for name in getattr(part, "at_ids", ())}
    own = {m.id for m in results.design.vehicle.modules} | {results.design.vehicle.radio.id}
    return tuple(o for o in car.outputs if o.owner_id not in own or swapped & set(o.coils))


def _answer(
    gate: int, check_id: str, title: str, how: str, kind: str, ask: Ask = Ask.DONE, subject: str = "",
    setting: Setting = Setting.DEAD, needs: tuple[str, ...] = (), at: Spot | None = None, caution: str = "",
) -> Check:  # fmt: skip
    probe = Probe(Quantity.ANSWER, setting=setting, ask=ask, subject=subject)
    return Check(check_id, gate, title, how, probe, minutes_of(kind), at, None, needs, subject, caution)


def _ohms(
    check_id: str, title: str, plus: Spot, minus: Spot, nodes: tuple[str, str], needs: tuple[str, ...], about: str,
    nothing: bool = False, how: str = "",
) -> Check:  # fmt: skip
    probe = Probe(Quantity.OHM, *nodes)
    words = f"{METERS[Quantity.OHM]}. One probe at {plus.name}, one at {minus.name}."
    words += " It must show no connection." if nothing else ""
    words += f" {how}" if how else ""
    return Check(check_id, 1, title, words, probe, minutes_of("ohm"), plus, minus, needs, about, nothing=nothing)


# -- gate 1 ---------------------------------------------------------------------------------------------------------


def _dead(results: Results, car: Car, spots: Spots) -> Iterator[Check]:
    design = results.design
    rewired = bool(design.links or design.coming_out)
    if not rewired and not new_outputs(results, car):
        return
    batteries = [b.name for b in design.vehicle.supply.batteries]
    off: tuple[str, ...] = ()
    if rewired:
        off = (BATTERY,)
        first = spots.of(design.vehicle.supply.batteries[0].id)
        yield _answer(
            1, BATTERY, "Batteries off" if batteries[1:] else "Battery off",
            f"{negatives(batteries)} off and kept from springing back.", "look", at=first,
            caution="Negative first off, last on. Batteries give off hydrogen: no sparks.",
        )  # fmt: skip
    if rewired and design.vehicle.seat_airbags.value is not False:
        yield _answer(1, "dead/airbags", "Airbag plugs are back", "Every plug under a seat that was pulled sits and"
                      " is latched.", "look", needs=off, caution=AIRBAG)  # fmt: skip
    runs = list(design.links_of(PowerLink))
    if runs:
        off = (*off, FUSE)
        yield _answer(1, FUSE, "Main fuse is out", "The holder is empty; the fuse lies on the dash, where it is seen.",
                      "look", needs=(BATTERY,), at=spots.run(runs[0].id, False))  # fmt: skip
    for pack in results.pack_feeds:
        how = (
            "Red from the pack's plus on + in, black on − in; its output on nothing yet. Turned round it dies at once."
        )
        yield _answer(1, f"dead/pack/{pack.part.id}", f"Polarity at {pack.part.name}", how, "look", Ask.DONE,
                      pack.part.id, needs=off, at=spots.end(pack.part.id, "input"))  # fmt: skip
    for link in runs:
        yield from _run(car, spots, link, off)
    yield from _grounds(results, car, spots, off)
    for lead in car.leads:
        yield _ohms(f"dead/lead/{lead.id}", f"{lead.name} is whole", spots.run(lead.id, False),
                    spots.run(lead.id, True), (near_of(lead.id), far_of(lead.id)), off, lead.id)  # fmt: skip
    for output in new_outputs(results, car):
        yield from _pair(results, spots, output, off)
    if design.coming_out:
        how = "Every joint made again holds a pull and is sleeved; no bare end is left, no fuse of ours feeds one."
        yield _answer(1, MADE_GOOD, "What came out left nothing open", how, "look", needs=off)
    if rewired:
        how = "No strand beside a screw, no terminal near metal, nothing under a seat rail, tools out."
        yield _answer(1, "dead/terminals", "Terminals are clear of metal", how, "look", needs=off)


def _run(car: Car, spots: Spots, link: PowerLink, needs: tuple[str, ...]) -> Iterator[Check]:
    if car.network is None or all(b.id != f"{link.id}/run" for b in car.network.branches):
        return
    behind = next(b.start for b in car.network.branches if b.id == f"{link.id}/run")
    start = spots.run(link.id, False)
    after = Spot(f"the run's end at {start.name}, behind the fuse", start.point)
    end = spots.end(link.to_id, "+ terminal")
    yield _ohms(f"dead/run/{link.id}", f"Power run to {spots.of(link.to_id).name} is whole", after, end,
                (behind, f"{link.to_id} plus"), needs, link.id)  # fmt: skip
    yield _ohms(
        f"dead/clear/{link.id}", f"Power run to {spots.of(link.to_id).name} is clear of the body", end,
        Spot("bare metal of the body", end.point), (f"{link.to_id} plus", BODY), needs, link.id, nothing=True,
        how="With the amplifier on its terminals it starts low and climbs: its capacitors fill.",
    )  # fmt: skip


def _grounds(results: Results, car: Car, spots: Spots, needs: tuple[str, ...]) -> Iterator[Check]:
    if car.network is None:
        return
    laid = {link.from_id for link in results.design.links_of(GroundLink)}
    for consumer in car.network.consumers:
        if consumer.id not in laid:
            continue
        name = spots.of(consumer.id).name
        yield _ohms(
            f"dead/ground/{consumer.id}", f"Ground of {name} reaches the battery", spots.end(consumer.id, "− terminal"),
            spots.end(consumer.cell_id, "− clamp"), (consumer.minus, f"{consumer.cell_id} minus"), needs, consumer.id,
            how="An ohmmeter only finds a lead that is off; how good it is shows under load.",
        )  # fmt: skip


def _either(pair: Check, load: LoadResult) -> Check:
    """A pair nobody knows the wiring of: what each would read, and nothing predicted."""
    each = "; ".join(f"{option.reads}: {option.words}" for option in load.options)
    return replace(pair, how=f"{pair.how} {each}.", ways=tuple(option.reads for option in load.options))


def _pair(results: Results, spots: Spots, output: Output, needs: tuple[str, ...]) -> Iterator[Check]:
    owner = spots.of(output.owner_id)
    at = Spot(f"{output.name}, its leads off", owner.point)
    plus, minus = (Spot(f"{sign} lead of {output.name}", owner.point) for sign in ("+", "−"))
    nodes = (plus_of(output.scope), minus_of(output.scope))
    coils = {coil for place in output.coils.values() for coil in place}
    if coils - output.held:
        pair = _ohms(f"dead/pair/{output.scope}", f"Ohms of {output.name}", at, minus, nodes, needs, output.owner_id,
                     how=f"Leads off {owner.name}.")  # fmt: skip
        unread = next((load for load in results.loads if load.scope == output.scope and load.unread), None)
        yield pair if unread is None else _either(pair, unread)
    elif coils:
        yield _ohms(
            f"dead/held/{output.scope}", f"{output.name} shows its capacitor", at, minus, nodes, needs, output.owner_id,
            nothing=True, how=f"Leads off {owner.name}. It may start low and climb. Ohms that stay are the coil itself:"
            " the capacitor is not in its lead, and the first bass kills a tweeter.",
        )  # fmt: skip
    body = Spot("bare metal of the body", owner.point)
    yield _ohms(f"dead/loose/{output.scope}", f"{output.name} does not touch the body", plus, body,
                (nodes[0], BODY), needs, output.owner_id, nothing=True)  # fmt: skip
    tweeters = {d.speaker.id for d in results.drives if d.tweeter}
    for place in output.coils:
        if place in tweeters or set(output.coils[place]) <= output.held:
            continue
        where = spots.of(place)
        yield _answer(
            1, f"dead/pop/{place}", f"Polarity of {where.name}",
            f"A 1.5 V cell at the leads of {output.name}, + on +, for a moment: the cone moves out.", "pop", Ask.POP,
            place, needs=needs, at=where, caution=f"Never a tweeter, never with {owner.name} connected.",
        )  # fmt: skip


# -- gate 2 ---------------------------------------------------------------------------------------------------------


def _volts(
    check_id: str, title: str, plus: Spot, minus: Spot, nodes: tuple[str, str], setting: Setting,
    needs: tuple[str, ...], about: str,
) -> Check:  # fmt: skip
    how = f"{METERS[Quantity.DC_V]}, {setting.value}. Red at {plus.name}, black at {minus.name}."
    minutes = minutes_of("cranking" if setting is Setting.CRANKING else "v")
    return Check(check_id, 2, f"{title}, {setting.value}", how, Probe(Quantity.DC_V, *nodes, setting), minutes,
                 plus, minus, needs, about)  # fmt: skip


def _live(results: Results, car: Car, spots: Spots) -> Iterator[Check]:
    radios = list(results.design.new_parts_of(HeadUnit))
    if results.design.links or results.design.coming_out or radios:
        yield from _first_moments()
    if results.design.links or results.design.coming_out:
        yield from _powered(results, car, spots)
    for unit in radios:
        how = "Key off: it goes off, at once or with the door. Accessory: it plays. Off and on: its stations are kept."
        yield _answer(2, f"live/keys/{unit.id}", f"{unit.name} follows the key", how, "function", setting=Setting.ON,
                      at=spots.of(results.design.vehicle.radio.id))  # fmt: skip
    tried = [*_functions(results, spots), *_promises(results, spots), *_roof(results)]
    titles = {check.title.lower() for check in tried}
    for part in results.design.new_parts_of(Accessory):
        if (lead := own_lead(part)) is not None and lead.get("tried_as") not in titles:
            yield _answer(2, f"live/own/{part.id}", f"{part.name} {lead['check']}", lead["how"], "function",
                          setting=Setting.ON, at=spots.of(part.id))  # fmt: skip
    yield from tried
    yield from _heard(results, car, spots)


def _first_moments() -> Iterator[Check]:
    how = "Fuse in, then look, feel and smell: no heat at the holder, no smoke, no sound."
    yield _answer(2, "live/smell", "Nothing gets warm, nothing smells", how, "look", setting=Setting.ON,
                  caution="Out with the fuse at the first sign.")  # fmt: skip
    lamps = "Key on, engine on: the lamps that go out, go out; nothing new is lit."
    yield _answer(2, "live/lamps", "Warning lamps", lamps, "look", setting=Setting.RUNNING)


def posts_asked(results: Results) -> tuple[tuple[str, str, str], ...]:
    """(battery, its plus, its minus) of every battery that is read; of a car that was signed for, none but those that
    were.
    """
    design, network = results.design, results.power.network
    solved = {c.id for c in network.cells} if network is not None else {design.vehicle.supply.batteries[0].id}
    read = {r.check.split("/")[2] for r in design.proof.readings if r.check.startswith("live/post/")}
    later = bool(design.handover.signatures)
    return tuple(post for post in results.car.posts if not later or post[0] in solved | read)


def _powered(results: Results, car: Car, spots: Spots) -> Iterator[Check]:
    posts, read = posts_asked(results), {r.check for r in results.design.proof.readings}
    in_volts = {name for name, _, _ in posts} & set(car.emf_v.get(Setting.ON, {}))
    for pack in results.pack_feeds:
        if f"live/pack/{pack.part.id}" not in read and itself(pack.battery.id) in in_volts:
            continue
        least, most = trimmed(pack.part.in_low_v), trimmed(pack.part.in_high_v)
        how = f"{METERS[Quantity.DC_V]}, key on. At its input, red on plus: {least} to {most} V, none below zero."
        yield _answer(2, f"live/pack/{pack.part.id}", f"{pack.part.name} gets its pack", how, "v", Ask.DONE,
                      pack.part.id, Setting.ON, at=spots.end(pack.part.id, "input"))  # fmt: skip
    for name, plus, minus in sorted(posts, key=lambda post: not is_itself(post[0])):  # what feeds comes first
        title, red, black = spots.post(name)
        for setting in (Setting.ON, Setting.RUNNING):
            if not is_itself(name) or name in car.emf_v.get(setting, {}):
                yield _volts(f"live/post/{name}/{setting.name.lower()}", title, red, black, (plus, minus), setting, (),
                             battery_of(name))  # fmt: skip
    for small in (s for s in car.small if not s.at_plug):
        yield from _at_small(car, spots, small)
    for fed in (f for f in car.fed if not car.solves(f.id)):
        yield from _switch_on(car, spots, fed.id, car.posts[0][2] if car.posts else "")
    if car.network is None:
        return
    for block in results.design.parts_of(DistributionBlock):
        node = f"{block.id} plus"
        if any(b.end == node for b in car.network.branches):
            cell = car.network.cells[0]
            yield _volts(f"live/block/{block.id}/running", block.name, spots.end(block.id, "+"),
                         spots.end(cell.id, "− post"), (node, cell.minus), Setting.RUNNING, (), block.id)  # fmt: skip
    for consumer in car.network.consumers:
        yield from _at_consumer(car, spots, consumer.id, consumer.plus, consumer.minus)


def _switch_on(car: Car, spots: Spots, name: str, minus: str) -> Iterator[Check]:
    """What is at a switch-on terminal with the key in every place."""
    fed = car.feeding(name)
    if fed is None or not fed.source_id:
        return
    for setting in KEYS:
        if setting is not Setting.CRANKING or setting in car.emf_v:
            yield _volts(f"live/remote/{name}/{setting.name.lower()}", f"Switch-on of {spots.of(name).name}",
                         spots.end(name, "switch-on"), spots.end(name, "− terminal"), (remote_of(name), minus),
                         setting, (), name)  # fmt: skip


def _at_consumer(car: Car, spots: Spots, name: str, plus: str, minus: str) -> Iterator[Check]:
    here, ends = spots.of(name), (spots.end(name, "+ terminal"), spots.end(name, "− terminal"))
    for setting in (Setting.ON, Setting.CRANKING, Setting.RUNNING):
        if setting is not Setting.CRANKING or setting in car.emf_v:
            yield _volts(f"live/amp/{name}/{setting.name.lower()}", here.name, *ends, (plus, minus), setting, (),
                         name)  # fmt: skip
    yield from _switch_on(car, spots, name, minus)
    how = f"{METERS[Quantity.CURRENT]} round the power lead of {here.name}, key on, no music."
    probe = Probe(Quantity.CURRENT, setting=Setting.RUNNING, subject=name)
    yield Check(f"live/idle/{name}", 2, f"Current of {here.name} with no music", how, probe, minutes_of("current"),
                ends[0], None, (f"live/amp/{name}/running",), name)  # fmt: skip


def _at_small(car: Car, spots: Spots, small: SmallFeed) -> Iterator[Check]:
    """A feed of a converter or a radio: as it should be, key off and on."""
    post, _, minus = car.posts[0] if car.posts else ("", "", "")
    words = f"Feed of {small.name}, {spots.of(small.feed_id).name}"
    for setting in (Setting.ASLEEP, Setting.ON):
        yield _volts(f"live/feed/{small.id}/{setting.name.lower()}", words, spots.end(small.part_id, "feed"),
                     spots.end(post, "− post"), (f"{small.id} feed", minus), setting, (), small.part_id)  # fmt: skip


def _functions(results: Results, spots: Spots) -> Iterator[Check]:
    kinds = Counter(v.function.title for v in results.ledger if v.fate is not Fate.LOST)
    for verdict in results.ledger:
        if verdict.fate is Fate.LOST:
            continue
        function = verdict.function
        at = spots.of(function.heard_at_id or function.made_by_id)
        title = function.title[:1].upper() + function.title[1:]
        title += f" ({lowered(verdict.why)})" if kinds[function.title] > 1 else ""
        how = f"Try it: {function.title}. {verdict.why.capitalize()}."
        yield _answer(2, f"live/function/{function.id}", title, how, "function", Ask.FUNCTION, function.id, Setting.ON,
                      at=at)  # fmt: skip


PROMISED = {
    Keep.CHIMES: FunctionKind.CHIMES, Keep.PARKING: FunctionKind.PARKING, Keep.HANDS_FREE: FunctionKind.HANDS_FREE,
    Keep.WHEEL_BUTTONS: FunctionKind.WHEEL_BUTTONS, Keep.CAMERA: FunctionKind.CAMERA,
    Keep.RECEPTION: FunctionKind.RECEPTION, Keep.FADE: FunctionKind.FADE,
}  # fmt: skip
OF_A_NEW_RADIO = (Keep.RECEPTION, Keep.HANDS_FREE)


def _promises(results: Results, spots: Spots) -> Iterator[Check]:
    """What the customer was promised, and what a new radio brings with it, where the ledger has no function for it."""
    design = results.design
    kinds = {verdict.function.kind for verdict in results.ledger}
    brought = OF_A_NEW_RADIO if any(design.parts_of(HeadUnit)) else ()
    absent = promised_absent(design)
    promised = [keep for keep in design.intake.must_keep if keep not in absent]
    for keep in dict.fromkeys((*promised, *brought)):
        if PROMISED[keep] in kinds:
            continue
        title = keep.value[:1].upper() + keep.value[1:]
        how = f"Try it: {keep.value}, as before the work or better."
        yield _answer(2, f"live/keep/{keep.name.lower()}", title, how, "function", Ask.FUNCTION, keep.value, Setting.ON,
                      at=spots.of(design.vehicle.radio.id))  # fmt: skip


def _roof(results: Results) -> Iterator[Check]:
    """A roof that folds, with what the work put near it still open to see."""
    for zone in near_the_roof(results.design):
        how = "Fold it and close it once, somebody watching: it touches no box, no amplifier and no cable."
        yield _answer(2, f"live/roof/{zone.id}", "The roof folds and closes", how, "function", subject=zone.id,
                      setting=Setting.ON)  # fmt: skip


def _heard(results: Results, car: Car, spots: Spots) -> Iterator[Check]:
    for output in car.outputs:
        first = tuple(tweeters_filters(results, spots, output.scope))
        yield from first
        for place in output.coils:
            where = spots.of(place)
            how = f"{where.name} alone, by fader and balance or the others off: it plays, clean."
            yield _answer(2, f"live/plays/{place}", f"{where.name} plays", how, "listen", Ask.PLAYS, place, Setting.ON,
                          tuple(check.id for check in first), where)  # fmt: skip
    if len(car.outputs) > 1:
        how = "Fader and balance to each end, tones “left once, right twice”: nothing is crossed on the way."
        yield _answer(2, "live/sides", "Left is left, front is front", how, "listen", Ask.SIDE, "", Setting.ON)
    if car.fed:
        yield _answer(2, "live/thump", "No thump at switch-on", "Key on and off, three times, ear near a speaker.",
                      "listen", Ask.THUMP, "", Setting.ON)  # fmt: skip
        yield _answer(2, "live/whine", "No whine with the engine", "Engine running, volume down, then 2,000 turns.",
                      "listen", Ask.WHINE, "", Setting.RUNNING)  # fmt: skip
