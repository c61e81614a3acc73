"""Music as the ledger sees it: whether what the radio plays still reaches each factory amplifier that stays."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.factory import FactoryLinkKind, Module
from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.parts import Accessory
from ohmack.core.factory.functions import Fate
from ohmack.core.factory.graph import RING, ModuleGraph
from ohmack.core.record import record

AUDIO = frozenset({FactoryLinkKind.ANALOGUE.value, FactoryLinkKind.SPEAKER.value, FactoryLinkKind.RING.value})
ADAPTERS = ("amplifier adapter", "line adapter", "ring coupler")
STILL_PLAYS = (KeepAlive.STAYS, KeepAlive.BOARD)


@record
class MusicVerdict:
    """What becomes of the music at one factory amplifier."""

    amplifier: Module
    fate: Fate
    why: str
    way: tuple[str, ...]


def judge_music(design: Design, acts: tuple[Intervention, ...] | None = None) -> tuple[MusicVerdict, ...]:
    """Whether music still reaches every factory amplifier that stays.

    Parameters:
        design: the design.
        acts: what happens to radio and modules; None for what the plan does.

    Returns:
        a verdict for each amplifier the radio fed that the plan neither takes out, replaces nor bypasses. An optical
        ring plays only with its master, which is the radio: without it, it is silent, whatever is looped. Source:
        common practice.
    """
    acts = interventions_of(design) if acts is None else acts
    before, after, radio = ModuleGraph(design), ModuleGraph(design, acts), design.vehicle.radio
    touched = {i.id: i for i in acts}
    adapter = next((p for p in design.parts_of(Accessory) if p.category in ADAPTERS), None)
    found = []
    for module in design.vehicle.modules:
        if not module.amplifies or module.fitted.value is False or not module.channels or module.id in touched:
            continue
        was = before.way(radio.id, module.id, AUDIO)
        if was is None:
            continue
        act = touched.get(radio.id)
        plays = act is None or act.act is Act.BYPASSED or any(k in STILL_PLAYS for k in act.keep_alive)
        way = after.way(radio.id, module.id, AUDIO) if plays else None
        if way is not None:
            words = "its way stays as it was" if way == was else "by another way"
            found.append(MusicVerdict(module, Fate.KEPT, words, way))
        elif adapter is not None and not plays:
            found.append(MusicVerdict(module, Fate.ADAPTED, f"through {adapter.name}", was))
        else:
            found.append(MusicVerdict(module, Fate.LOST, _why(after, was, plays, radio.name), was))
    return tuple(found)


def _why(graph: ModuleGraph, was: tuple[str, ...], plays: bool, radio: str) -> str:
    ring = next((ring for ring in graph.rings if set(was) <= ring), None)
    if not plays:
        return f"{radio} was the master of the ring" if ring else f"{radio} sent it its signal, and goes"
    if ring:  # light goes one way round: a gap anywhere stops it, wherever the amplifier sits
        gap = next((graph.names[n] for n in graph.names if n in ring and not graph.passes(n, RING)), "")
        return f"the ring is open where {gap} was" if gap else "the ring is open"
    gone = next((graph.names[n] for n in was if not graph.talks(n)), "")
    return f"its way goes through {gone}" if gone else "its way is cut"
