"""Rules on what the car's modules do: functions a plan would lose, and a module graph that cannot be right."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Tier
from ohmack.core.document.functions import Act, FunctionKind
from ohmack.core.document.handles import at
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.parts import Accessory, HeadUnit, Said
from ohmack.core.factory.function_edits import KEPT, functions_for, keep_alive, promised_absent, promised_unjudged
from ohmack.core.factory.functions import Fate, Verdict
from ohmack.core.factory.graph import about, graph_troubles
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import article, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def _remedy(results: Results, verdict: Verdict) -> Remedy:
    if verdict.mends:
        return Remedy(verdict.mending, verdict.mends)
    if verdict.look_at:
        return Remedy("Look at the signal", path=verdict.look_at)
    if verdict.ability:
        return find_part("Find a radio that has it", "radio", next(results.design.new_parts_of(HeadUnit)).id)
    if not verdict.measures:
        blind = [unit for unit in results.design.new_parts_of(HeadUnit) if not unit.screen]
        if verdict.function.kind is FunctionKind.CAMERA and blind:
            return find_part("Find a radio with a screen", "radio", blind[0].id)
        return Remedy("See the ledger", sheet="functions")
    thing_id, measure = verdict.measures[0]
    intervention = next(i for i in interventions_of(results.design) if i.id == thing_id)
    name = results.ledger_names[thing_id]
    return Remedy(f"{name}: {measure.value}", (keep_alive(results.design, intervention, measure),))


@rule("function-lost", "plan", PRACTICE)
def function_lost(results: Results) -> Iterator[Draft]:
    """The plan would silence something the car does besides music."""
    wanted = set(results.design.intake.must_keep)
    for verdict in results.ledger:
        function = verdict.function
        path = at(function)
        title = f"{function.title[0].upper()}{function.title[1:]}"
        asked = KEPT.get(function.kind) in wanted
        if verdict.fate is Fate.LOST:
            vital = bool(about(function.kind)["vital"])
            draft = stop if asked or vital else note if function.kind is FunctionKind.FADE else watch
            end = (
                " The customer wants it kept."
                if asked
                else " The car may not start or warn without it."
                if vital
                else ""
            )
            yield draft(
                path,
                f"{title} would be lost",
                f"{verdict.why[0].upper()}{verdict.why[1:]}.{end}",
                _remedy(results, verdict),
            )
        elif verdict.fate is Fate.UNCLEAR and asked:
            draft = stop if results.design.parts else watch
            yield draft(
                path,
                f"{title}: not traced yet",
                "The customer wants it kept, and nothing on file says what carries it. Add its modules and links, or"
                " correct where it is made and heard.",
                Remedy("Look at it", path=path),
            )


@rule("function-part", "plan", PRACTICE)
def function_part(results: Results) -> Iterator[Draft]:
    """What functions live on by has to be bought, and a cheap interface is a risk."""
    bought = {part.category for part in results.design.parts_of(Accessory)}
    rests: dict[str, list[str]] = {}
    for verdict in results.ledger:
        for part in verdict.rests_on:
            rests.setdefault(part, []).append(verdict.function.title)
    for part, functions in rests.items():
        names = listed(list(dict.fromkeys(functions)))
        title = f"{names[0].upper()}{names[1:]}: kept by {article(part)}"
        if part not in bought:
            yield stop(
                f"needs/{part}",
                f"{title}, and none is among the parts",
                f"Without one {'they are' if len(set(functions)) > 1 else 'it is'} lost, and its price is in no sum."
                " Take one made for this car, or take the measure back and see what that costs.",
                find_part("Find one", "accessory"),
            )
        elif part == "interface":
            yield note(
                f"needs/{part}",
                title,
                "Cheap digital interfaces fail now and then: choose one made for this car, and test it for days before"
                " the old unit is given back.",
            )


@rule("radio-unsaid", "plan", PRACTICE)
def radio_unsaid(results: Results) -> Iterator[Draft]:
    """A promise rests on the new radio, and its papers do not say that it has what that takes."""
    promised = results.design.intake.must_keep
    for verdict in results.ledger:
        function = verdict.function
        if not verdict.ability or not verdict.taken_over or KEPT.get(function.kind) not in promised:
            continue
        units = (u for u in results.design.new_parts_of(HeadUnit) if getattr(u, verdict.ability) is Said.UNSAID)
        unit = next(units)
        yield stop(
            f"{at(unit)}/{verdict.ability}",
            f"Has {unit.name} {about(function.kind)['radio_words']}? Nobody said",
            f"{function.title[0].upper()}{function.title[1:]} was promised, and the new radio is to take it over. Its"
            " papers say it.",
            Remedy("Enter it", path=f"{at(unit)}/{verdict.ability}"),
        )


@rule("camera-picture", "plan", PRACTICE)
def camera_picture(results: Results) -> Iterator[Draft]:
    """The car's camera is to be shown by another radio, and nobody said what it sends."""
    for verdict in results.ledger:
        camera = verdict.function.kind is FunctionKind.CAMERA
        if verdict.taken_over and camera and verdict.function.picture.value is None:
            yield (watch if KEPT.get(FunctionKind.CAMERA) in results.design.intake.must_keep else note)(
                at(verdict.function),
                "Will the car's camera be understood by the new radio?",
                "Some send an analogue picture at 12 V, some at 6 V, newer ones a digital one no other radio shows."
                " Look at its plug and its feed before the radio is ordered: an adapter made for it, or a camera of the"
                " radio's own, is the way out.",
                Remedy("Enter it", path=at(verdict.function, lambda it: it.picture)),
            )


@rule("camera-unseen", "plan", PRACTICE)
def camera_unseen(results: Results) -> Iterator[Draft]:
    """A camera comes, and nothing shows its picture; or its plus would be taken where there are more than 12 V."""
    design = results.design
    units = list(design.parts_of(HeadUnit))
    for part in design.new_parts_of(Accessory):
        if part.category != "camera":
            continue
        if not any(unit.screen and unit.camera_input is not Said.NO for unit in units):
            yield stop(
                part.id,
                f"Nothing shows what {part.name} sees",
                "No radio with a screen and a camera input is planned, and whether the factory one takes a camera of"
                " another make is not known.",
                find_part("Find a radio with a screen", "radio", units[0].id if units else ""),
            )
        if design.vehicle.above_12_v:
            yield stop(
                part.id,
                f"{part.name} on a reversing lamp of {design.vehicle.supply.system.value}",
                "Its plus comes from the 12 V side of a converter through a relay the lamp's wire works, or it is one"
                " made for that voltage.",
                Remedy("Look at the part", path=at(part)),
            )


@rule("start-chain", "plan", PRACTICE)
def start_chain(results: Results) -> Iterator[Draft]:
    """The radio goes, and the car does not start without it, or nobody tried."""
    design = results.design
    radio = design.vehicle.radio
    act = next((i for i in interventions_of(design) if i.id == radio.id), None)
    judged = any(f.kind is FunctionKind.START for f in design.vehicle.functions)
    if act is None or act.act is Act.BYPASSED or act.keep_alive or judged or radio.starts_without.value is True:
        return
    path = at(radio, lambda it: it.starts_without)
    if radio.starts_without.value is False:
        yield stop(
            path,
            f"The car does not start without {radio.name}",
            "Found at the car. Keep it powered and connected out of sight, or take an interface made for this car;"
            " until then it stays where it is.",
            Remedy("See the functions", sheet="functions"),
        )
    elif radio.tier.value is Tier.RING:
        yield watch(
            path,
            f"Nobody tried whether the car starts without {radio.name}",
            "In cars with a ring the radio is often in the starting chain. Unplug it and start, before it is sold.",
            Remedy("Enter it", path=path),
        )


@rule("promise-unjudged", "plan", PRACTICE)
def promise_unjudged(results: Results) -> Iterator[Draft]:
    """Something was promised to keep working, and nothing on file says where it is made."""
    lacking = promised_unjudged(results.design)
    if not lacking or not results.design.parts:
        return
    laid = functions_for(results.design)
    covers = {KEPT.get(FunctionKind(edit.value["kind"])) for edit in laid}
    for keep in lacking:
        yield stop(
            f"intake/must_keep/{keep.value}",
            f"Promised, and not looked at: {keep.value}",
            "No function of that kind is on file, so nobody judged what this plan does to it. Put in what such a car"
            " usually has, add it by hand, or take the promise back.",
            (
                Remedy("Put in the usual functions", laid)
                if keep in covers
                else Remedy("See the functions", sheet="functions")
            ),
        )


@rule("promise-absent", "plan", PRACTICE)
def promise_absent(results: Results) -> Iterator[Draft]:
    """Something was promised to keep working that this car turned out not to have."""
    wanted = results.design.intake.must_keep
    for keep in promised_absent(results.design):
        rest = [other.value for other in wanted if other is not keep]
        yield note(
            f"intake/must_keep/{keep.value}",
            f"Promised to keep working, and this car has none: {keep.value}",
            "It was looked for and not found. Tell the customer before the work begins, or nobody can say afterwards"
            " that it was never there.",
            Remedy("Take the promise back", (Edit(path="intake/must_keep", value=rest),)),
        )


@rule("module-graph", "survey", PRACTICE)
def module_graph(results: Results) -> Iterator[Draft]:
    """The modules and links on file cannot work as they stand."""
    for about_id, title, text in graph_troubles(results.design):
        yield watch(about_id, title, text, Remedy("Look at the modules", sheet="factory"))
