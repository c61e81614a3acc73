"""The function ledger: which functions live on when modules are taken out, replaced or bypassed, and what keeps them
alive.

A search over the module graph; no car is hard-coded.
"""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import FactoryLinkKind, ModuleKind
from ohmack.core.document.functions import Act, CameraPicture, CarFunction, FunctionKind, Intervention, KeepAlive
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.looking import Remembered
from ohmack.core.document.parts import Accessory, HeadUnit, Said
from ohmack.core.factory.graph import ModuleGraph, about
from ohmack.core.record import record
from ohmack.core.reference import read_toml

CAMERA_ADAPTER = "camera adapter"
WANTS_MORE = {  # of what a camera sends, what a camera input does not bring by itself; common practice
    CameraPicture.V6: "an adapter that feeds the camera its 6 V",
    CameraPicture.DIGITAL: "an adapter that makes an analogue picture of a digital one",
}


class Fate(StrEnum):
    """What becomes of a function, best first."""

    KEPT = "kept"
    ADAPTED = "kept with an adapter"
    LOST = "lost"
    UNCLEAR = "not traced"


@record
class Verdict:
    """One function under a plan: its fate, why, the way it takes, where that breaks, what restores it."""

    function: CarFunction
    fate: Fate
    why: str
    way: tuple[str, ...]
    broken_at: str
    measures: tuple[tuple[str, KeepAlive], ...] = ()
    rests_on: tuple[str, ...] = ()  # categories of part it lives on by
    taken_over: bool = False  # by the new radio, in place of the old one
    look_at: str = ""  # the path of what decides it, where that is no module
    mends: tuple[Edit, ...] = ()  # what brings it back, where that is no measure
    mending: str = ""  # the same in words
    ability: str = ""  # the field of the new radio that says it has not, or does not say, what it takes it over with


def measure_part(measure: KeepAlive) -> str:
    """The category of part a keep-alive measure takes; empty where it takes none."""
    return str(read_toml("functions")["measures"][measure.value]["part"])


def functions_of(design: Design) -> list[CarFunction]:
    """The functions the car has, as far as is known."""
    return [f for f in design.vehicle.functions if f.has_it.value is not False]


def shown_on_the_radio(design: Design) -> bool:
    """Whether the picture of a reversing camera is seen on the factory radio itself."""
    return any(_seen_on_the_radio(design, function) for function in functions_of(design))


def _seen_on_the_radio(design: Design, function: CarFunction) -> bool:
    return function.kind is FunctionKind.CAMERA and function.heard_at_id in (None, design.vehicle.radio.id)


ABILITIES = {kind: str(about(kind)["radio_has"]) for kind in FunctionKind if about(kind).get("radio_has")}


def _abilities(design: Design) -> dict[FunctionKind, Said]:
    """Whether the radio that comes has what it takes to take a function over, of those of which that is asked; yes
    where none is chosen yet.
    """
    units = list(design.new_parts_of(HeadUnit))
    said = {kind: {getattr(unit, field) for unit in units} for kind, field in ABILITIES.items()}
    worst_last = (Said.YES, Said.UNSAID, Said.NO)
    return {kind: next((word for word in worst_last if word in words), Said.YES) for kind, words in said.items()}


def _blind(design: Design) -> bool:
    """Whether the radio that comes has no screen to show a picture on."""
    units = list(design.new_parts_of(HeadUnit))
    return bool(units) and not any(unit.screen for unit in units)


_judged: Remembered[tuple[Verdict, ...]] = Remembered(256)
_untouched: Remembered[tuple[tuple[str, ...] | None, ...]] = Remembered(256)  # the way of every function before a plan


def judge_functions(design: Design, acts: tuple[Intervention, ...] | None = None) -> tuple[Verdict, ...]:
    """The fate of every function under a plan's interventions; remembered by what it rests on, as a sweep shares most.

    Parameters:
        design: the design.
        acts: what happens to radio and modules; None for what the plan itself does, its own parts included.

    Returns:
        one verdict a function: its factory way, where the plan breaks it, and the single measures that restore it.
    """
    v = design.vehicle
    acts = interventions_of(design) if acts is None else acts
    rests_on = (v.radio, v.modules, v.factory_links, v.functions, v.speakers, v.feeds)
    blind, cameras = _blind(design), [a.name for a in design.parts_of(Accessory) if a.category == "camera"]
    abilities = _abilities(design)
    key = (acts, blind, tuple(cameras), tuple(abilities.values()))

    def untouched() -> tuple[tuple[str, ...] | None, ...]:
        graph = ModuleGraph(design)
        return tuple(graph.works(f) for f in functions_of(design))

    def judge() -> tuple[Verdict, ...]:
        after, intact = ModuleGraph(design, acts), _untouched.get(rests_on, (), untouched)
        return tuple(
            _verdict(design, acts, way, after, f, blind, cameras, abilities.get(f.kind, Said.YES))
            for f, way in zip(functions_of(design), intact, strict=True)
        )

    return _judged.get(rests_on, key, judge)


def _verdict(
    design: Design,
    acts: tuple[Intervention, ...],
    intact: tuple[str, ...] | None,
    after: ModuleGraph,
    function: CarFunction,
    blind: bool,
    cameras: list[str],
    has: Said,
) -> Verdict:
    if intact is None:
        return Verdict(function, Fate.UNCLEAR, "nothing on file carries it", (), "")
    if not acts:
        return Verdict(function, Fate.KEPT, "untouched", intact, "")
    radio_id = design.vehicle.radio.id
    if _seen_on_the_radio(design, function) and any(i.id == radio_id and i.act is Act.REPLACED for i in acts):
        if blind:
            return Verdict(function, Fate.LOST, "the new radio has no screen to show it on", intact, radio_id)
        if cameras and has is not Said.NO:
            return Verdict(function, Fate.ADAPTED, f"{cameras[0]} shows it instead", intact, "")
    adapters = [i for i in acts if KeepAlive.INTERFACE in i.keep_alive and i.id in (*intact, *function.needs_ids)]
    way = after.works(function)
    if way is not None:
        on_way = [i for i in acts if i.id in (*way, *intact, *function.needs_ids)]
        parts = dict.fromkeys(part for i in on_way for measure in i.keep_alive if (part := measure_part(measure)))
        if adapters:
            words = f"through the interface for {after.names[adapters[0].id]}"
            return Verdict(function, Fate.ADAPTED, words, way, "", rests_on=tuple(parts))
        return Verdict(
            function,
            Fate.KEPT,
            _kept_by(acts, after, way, function)
            or ("its way stays as it was" if way == intact else "it takes another way"),
            way,
            "",
            rests_on=tuple(parts),
        )
    taken_over = _by_new_radio(design, acts, function)
    ability = "" if has is Said.YES else ABILITIES[function.kind]
    if taken_over is not None and has is Said.NO:
        why = f"the new radio has no {_bare(str(about(function.kind)['radio_words']))}"
        measures = tuple(_measures(design, acts, function))
        return Verdict(function, Fate.LOST, why, intact, radio_id, measures, ability=ability)
    if taken_over is not None:
        fate, why, part = taken_over
        rests_on = (part,) if part else ()
        return Verdict(function, fate, why, intact, "", rests_on=rests_on, taken_over=True, ability=ability)
    node, why = _break(after, function, intact)
    return Verdict(function, Fate.LOST, why, intact, node, tuple(_measures(design, acts, function)))


def _bare(words: str) -> str:
    """Words without their article: `a camera input` is said after `no` as well."""
    return words.removeprefix("an ").removeprefix("a ")


def _kept_by(acts: tuple[Intervention, ...], graph: ModuleGraph, way: tuple[str, ...], function: CarFunction) -> str:
    """The measure a function lives on by, in words; empty where nothing on its way is touched."""
    for act in acts:
        if act.id in (*way, *function.needs_ids) and act.keep_alive:
            return f"{graph.names[act.id]}: {act.keep_alive[-1].value}"
    return ""


def _by_new_radio(
    design: Design, acts: tuple[Intervention, ...], function: CarFunction
) -> tuple[Fate, str, str] | None:
    """(fate, words, category of part) of a function a new radio takes over, where the old radio alone stood in its
    way.
    """
    radio_id = design.vehicle.radio.id
    words = about(function.kind)["new_radio"]
    act = next((i for i in acts if i.id == radio_id), None)
    if act is None or act.act is not Act.REPLACED or not words:
        return None
    if words == "own":
        return Fate.KEPT, "the new radio has its own", ""
    as_if = tuple(i for i in acts if i.id != radio_id)
    if ModuleGraph(design, as_if).works(function) is None:
        return None
    picture = function.picture.value if function.kind is FunctionKind.CAMERA else None
    if picture in WANTS_MORE:
        return Fate.ADAPTED, f"needs {words}, and {WANTS_MORE[picture]}", CAMERA_ADAPTER
    return Fate.ADAPTED, f"needs {words}", str(about(function.kind)["new_radio_part"])


def _break(graph: ModuleGraph, function: CarFunction, intact: tuple[str, ...]) -> tuple[str, str]:
    """(node, sentence): the first thing on the factory way that no longer works."""
    for node in (*function.needs_ids, *intact):
        act = graph.acts.get(node)
        if act is not None and not graph.talks(node):
            return node, f"it goes through {graph.names[node]}, which is {act.act.value}"
    for a, b in zip(intact, intact[1:], strict=False):
        if b in {s.id for s in graph.vehicle.speakers} and not graph.drives(a, b):
            return a, f"it is heard from {graph.names[b]}, which {graph.names[a]} no longer drives"
    for ring in graph.rings:
        if ring & set(intact):
            master = graph.vehicle.radio.id
            if master in ring and graph.has_master and not graph.talks(master):
                return master, f"the optical ring is silent without {graph.names[master]}, its master"
            gone = next((n for n in sorted(ring) if not graph.passes(n, FactoryLinkKind.RING.value)), "")
            if gone:
                return gone, f"the optical ring is open where {graph.names[gone]} was"
    for node in intact:
        if not graph.powered(node):
            return node, f"{graph.names[node]} has lost its feed"
    return intact[0], "its way is cut"


def fitting_measures(design: Design, intervention: Intervention) -> tuple[KeepAlive, ...]:
    """The measures that make sense for what happens to a module."""
    module = next((m for m in design.vehicle.modules if m.id == intervention.id), None)
    if intervention.act is Act.BYPASSED:
        return (KeepAlive.CENTRE,)
    in_ring = any(intervention.id in ring for ring in ModuleGraph(design).rings)
    found = [KeepAlive.STAYS] if module is not None or in_ring else []
    if in_ring and module is not None:  # the radio is the master of its ring: looped past, the ring is silent
        found.append(KeepAlive.LOOPED)
    if module is not None and module.kind is ModuleKind.CHANGER:
        found.append(KeepAlive.PLUG)
    return (*found, KeepAlive.BOARD, KeepAlive.INTERFACE)


def _measures(design: Design, acts: tuple[Intervention, ...], function: CarFunction) -> Iterator[tuple[str, KeepAlive]]:
    """Single measures that bring a lost function back, the simplest first."""
    for intervention in acts:
        for measure in fitting_measures(design, intervention):
            if measure in intervention.keep_alive:
                continue
            more = intervention.model_copy(update={"keep_alive": (*intervention.keep_alive, measure)})
            tried = tuple(more if i.id == intervention.id else i for i in acts)
            if ModuleGraph(design, tried).works(function) is not None:
                yield intervention.id, measure


def hangs_on(design: Design) -> dict[str, tuple[CarFunction, ...]]:
    """For the radio and every module: the functions that die when it alone is taken out and nothing is done about
    it.
    """
    nodes = [design.vehicle.radio.id, *(m.id for m in design.vehicle.modules if m.fitted.value is not False)]
    before = ModuleGraph(design)
    working = [f for f in functions_of(design) if before.works(f) is not None]
    result = {}
    for node in nodes:
        graph = ModuleGraph(design, (Intervention(id=node),))
        result[node] = tuple(f for f in working if graph.works(f) is None)
    return result
