"""The functions a car of this kind usually has, laid into the survey: all assumed until somebody tried them."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.design import Keep
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ModuleKind, Tier
from ohmack.core.document.functions import Act, CameraPicture, FunctionKind, Intervention, KeepAlive
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import UnknownName
from ohmack.core.factory.functions import functions_of
from ohmack.core.factory.graph import about

KEPT: dict[FunctionKind, Keep] = {
    kind: Keep(str(about(kind)["keep"])) for kind in FunctionKind if about(kind).get("keep")
}  # what the customer may ask to keep, by function


def _has(kind: FunctionKind, made_by: str, heard_at: str | None, sure: bool, *needs: str) -> dict[str, Any]:
    has_it = {"value": True, "basis": "assumed", "alternatives": [] if sure else [False]}
    name = f"fn-{kind.value.replace(' ', '-')}"
    usual, *others = (picture.value for picture in CameraPicture)
    sends = {"picture": {"value": usual, "basis": "assumed", "alternatives": others}}
    return {
        "id": name,
        "kind": kind.value,
        "made_by_id": made_by,
        "heard_at_id": heard_at,
        "needs_ids": list(needs),
        "has_it": has_it,
        **(sends if kind is FunctionKind.CAMERA else {}),
    }


def promised_unjudged(design: Design) -> tuple[Keep, ...]:
    """What is promised to keep working and nobody can judge: no function of that kind is on file.

    Parameters:
        design: the design.

    Returns:
        the promises, in their order; a function on file that the car turned out not to have counts as looked at.
    """
    on_file = {KEPT.get(function.kind) for function in design.vehicle.functions}
    return tuple(keep for keep in design.intake.must_keep if keep not in on_file)


def promised_absent(design: Design) -> tuple[Keep, ...]:
    """What is promised to keep working and this car turned out not to have: nothing is there that could be lost.

    Parameters:
        design: the design.

    Returns:
        the promises, in their order, every function of whose kind was looked for and not found.
    """
    looked_for = {KEPT.get(function.kind) for function in design.vehicle.functions}
    there = {KEPT.get(function.kind) for function in functions_of(design)}
    return tuple(keep for keep in design.intake.must_keep if keep in looked_for - there)


def functions_for(design: Design) -> tuple[Edit, ...]:
    """Edits that lay in the functions such a car usually has and the model still lacks.

    Parameters:
        design: the design.

    Returns:
        edits: one function each, made and heard where the modules on file allow it; empty where nothing is missing.

    Source: common practice.
    """
    vehicle = design.vehicle
    tier = vehicle.radio.tier.value
    if tier in (None, Tier.NONE):
        return ()
    radio = vehicle.radio.id
    by_kind = {m.kind: m.id for m in vehicle.modules if m.fitted.value is not False}
    driven = [s for s in vehicle.speakers if s.channel_id]
    front = min(driven, key=lambda s: s.position.x_m, default=None)
    rear = max(driven, key=lambda s: s.position.x_m, default=None)
    front_id = front.id if front else radio
    gateway = by_kind.get(ModuleKind.GATEWAY)
    wanted = set(design.intake.must_keep)
    rows = [_has(FunctionKind.RECEPTION, by_kind.get(ModuleKind.AERIAL, radio), radio, True)]
    if tier is not Tier.AFTERMARKET:
        rows.append(_has(FunctionKind.CLOCK, radio, None, False))
    if rear and front and rear is not front:
        rows.append(_has(FunctionKind.FADE, radio, rear.id, True))
    if gateway:
        rows += [
            _has(FunctionKind.CHIMES, gateway, front_id, True),
            _has(FunctionKind.WHEEL_BUTTONS, gateway, radio, True),
        ]
        if tier is Tier.RING:
            rows.append(_has(FunctionKind.START, gateway, None, False, by_kind.get(ModuleKind.DISPLAY, radio)))
    else:
        if Keep.CHIMES in wanted:
            rows.append(_has(FunctionKind.CHIMES, radio, front_id, False))
        if Keep.WHEEL_BUTTONS in wanted:
            rows.append(_has(FunctionKind.WHEEL_BUTTONS, radio, None, True))
    if (park := by_kind.get(ModuleKind.PARKING)) or Keep.PARKING in wanted:
        rows.append(_has(FunctionKind.PARKING, park or gateway or radio, front_id, bool(park)))
    if (camera := by_kind.get(ModuleKind.CAMERA)) or Keep.CAMERA in wanted:
        rows.append(_has(FunctionKind.CAMERA, camera or radio, by_kind.get(ModuleKind.DISPLAY, radio), bool(camera)))
    if (mic := by_kind.get(ModuleKind.MICROPHONE)) or Keep.HANDS_FREE in wanted:
        rows.append(_has(FunctionKind.HANDS_FREE, mic or radio, front_id, bool(mic)))
    if changer := by_kind.get(ModuleKind.CHANGER):
        rows.append(_has(FunctionKind.CHANGER, changer, radio, True))
    if display := by_kind.get(ModuleKind.DISPLAY):
        rows.append(_has(FunctionKind.WARNINGS, gateway or radio, display, False))
    have = {f.kind.value for f in vehicle.functions}
    taken = design.taken_ids()
    return tuple(
        Edit(op="add", path=at_the(Vehicle, lambda it: it.functions), value=row)
        for row in rows
        if row["kind"] not in have and row["id"] not in taken
    )


MADE_BY_KIND = {
    ModuleKind.CAMERA: FunctionKind.CAMERA,
    ModuleKind.PARKING: FunctionKind.PARKING,
    ModuleKind.MICROPHONE: FunctionKind.HANDS_FREE,
    ModuleKind.HANDS_FREE: FunctionKind.HANDS_FREE,
    ModuleKind.AERIAL: FunctionKind.RECEPTION,
    ModuleKind.CHANGER: FunctionKind.CHANGER,
}
"""What a module of a kind is there for: where one is joined up, its function is made there."""


def traced_by(design: Design, from_id: str, to_id: str, kind: str) -> tuple[Edit, ...]:
    """Edits that let a module that was just joined to another make the function it is there for.

    Parameters:
        design: the design, the link not yet in it.
        from_id: one end of the link.
        to_id: the other.
        kind: what joins them.

    Returns:
        the edits: the function put in, made at the module and heard or seen at the other end, or one on file that was
        thought to be made by the radio or a gateway turned to the module; none where the link cannot carry it or a
        person placed the function elsewhere.
    """
    vehicle = design.vehicle
    modules = {m.id: m for m in vehicle.modules}
    usual = {vehicle.radio.id, *(m.id for m in vehicle.modules if m.kind is ModuleKind.GATEWAY)}
    edits: list[Edit] = []
    for own, other in ((from_id, to_id), (to_id, from_id)):
        module = modules.get(own)
        function_kind = MADE_BY_KIND.get(module.kind) if module is not None else None
        if function_kind is None or kind not in str(about(function_kind)["travels"]):
            continue
        on_file = next((f for f in vehicle.functions if f.kind is function_kind), None)
        heard = other if other in (vehicle.radio.id, *modules) else vehicle.radio.id
        if on_file is None:
            row = _has(function_kind, own, heard, True)
            edits.append(Edit(op="add", path=at_the(Vehicle, lambda it: it.functions), value=row))
        elif on_file.made_by_id in usual:
            edits.append(Edit(path=at(on_file, lambda it: it.made_by_id), value=own))
            if on_file.heard_at_id in (None, own):
                edits.append(Edit(path=at(on_file, lambda it: it.heard_at_id), value=heard))
    return tuple(edits)


def happens_to(design: Design, thing_id: str, act: str) -> tuple[Edit, ...]:
    """Edits that say what happens to the radio or a module; an empty act leaves it alone.

    Parameters:
        design: the design.
        thing_id: the radio or a module.
        act: one of Act, or "".

    Returns:
        the edits.

    Raises:
        UnknownName: no such module, or no such act.
    """
    vehicle = design.vehicle
    if thing_id not in (vehicle.radio.id, *(m.id for m in vehicle.modules)):
        raise UnknownName("radio or module", thing_id)
    if act and act not in [a.value for a in Act]:
        raise UnknownName("act", act, ", ".join(a.value for a in Act))
    now = next((i for i in design.interventions if i.id == thing_id), None)
    if not act:
        return (Edit(op="remove", path=f"interventions/{thing_id}"),) if now else ()
    if now is not None:
        return (Edit(path=f"interventions/{thing_id}", value={"id": thing_id, "act": act}),)
    return (Edit(op="add", path="interventions", value={"id": thing_id, "act": act}),)


def keep_alive(design: Design, intervention: Intervention, measure: KeepAlive) -> Edit:
    """The edit that adds a keep-alive measure to what happens to a module, said by a person or meant by a part."""
    measures = [k.value for k in (*intervention.keep_alive, measure)]
    if any(i.id == intervention.id for i in design.interventions):
        return Edit(path=f"interventions/{intervention.id}/keep_alive", value=measures)
    value = {"id": intervention.id, "act": intervention.act.value, "keep_alive": measures}
    return Edit(op="add", path="interventions", value=value)


def before_unplugging(design: Design) -> tuple[str, ...]:
    """What to note or set before anything is unplugged, for the functions this car has."""
    found: dict[str, None] = {}
    for function in functions_of(design):
        if words := about(function.kind).get("before"):
            found[str(words)] = None
    return tuple(found)


def must_still_work(design: Design) -> tuple[tuple[str, str], ...]:
    """(function, how it is tried) of everything that has to work at the end; Prove tests it."""
    return tuple((f.title, design.vehicle.as_said(str(about(f.kind)["test"]))) for f in functions_of(design))
