"""A wire hunt: begun, a reading taken or withdrawn, a fault taken as the cause, its result put where it belongs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the, cavity_at, within
from ohmack.core.document.harness import (
    OPEN_OHM,
    Cavity,
    CavityUse,
    Connector,
    Fault,
    Heard,
    Hunt,
    HuntReading,
    HuntWire,
    Polarity,
    TestKind,
)
from ohmack.core.document.ids import free_id
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.harness.wire_colours import colour_words, read_colour
from ohmack.core.harness.wire_finder import CERTAIN, Found, Guess, find
from ohmack.core.physics.labelled_matching import MOST_WIRES
from ohmack.core.planning.harness import connector_of

MOST_UNKNOWN = 2  # broken speakers not known by name: every way they may be is gone through


def hunt_of(design: Design) -> Hunt:
    """The hunt of the car.

    Raises:
        UnknownName: none has been begun.
    """
    if design.vehicle.hunt is None:
        raise UnknownName("hunt", "for unknown wires", "none has been begun")
    return design.vehicle.hunt


def unknown_cavities(connector: Connector) -> tuple[Cavity, ...]:
    """Cavities with a wire nobody knows, and speaker wires nobody has told apart."""
    return tuple(
        c
        for c in connector.cavities
        if c.taken_for is None or (c.taken_for is CavityUse.SPEAKER and c.channel_id is None)
    )


def named_wires(words: Sequence[str]) -> tuple[dict[str, Any], ...]:
    """Loose wires as they are called: by colour where the words are one, else by name.

    Parameters:
        words: one text a wire, such as `grey/black`, `4 grey/black`, `the thin one`; empty ones are numbered.

    Returns:
        the wires as a document holds them, names unlike each other.
    """
    wires: list[dict[str, Any]] = []
    taken: set[str] = set()
    for number, text in enumerate(words, 1):
        given = " ".join(text.split())[:40]
        name, colour = given or f"wire {number}", given.lstrip("0123456789.: ")
        try:
            base, tracer = read_colour(colour)
        except UnknownName:
            base, tracer = None, None
        if name in taken:
            name = f"{name} ({number})"
        taken.add(name)
        wires.append({"id": f"w{number}", "name": name, "base": base, "tracer": tracer})
    return tuple(wires)


def begin_hunt(
    design: Design,
    connector_id: str,
    cavity_ids: Sequence[str],
    speaker_ids: Sequence[str],
    grounds: int,
    *,
    bundles: bool = False,
) -> tuple[Edit, ...]:
    """The edit that begins a hunt over some cavities of a connector.

    Parameters:
        design: the design.
        connector_id: the connector; "" for loose wires.
        cavity_ids: the cavities with unknown wires; for loose wires what each is called, by colour or name, or "".
        speaker_ids: the speakers they may lead to.
        grounds: grounds among them.
        bundles: whether several wires fit into one clip.

    Returns:
        the edit.

    Raises:
        OutOfRange: more wires than a hunt takes.
        UnknownName: no such connector.
    """
    if not 1 <= len(cavity_ids) <= MOST_WIRES:
        raise OutOfRange("wires", len(cavity_ids), "wires", f"1 to {MOST_WIRES}")
    wires: list[dict[str, Any]] = []
    if connector_id:
        connector = connector_of(design, connector_id)
        known = {c.id: c for c in connector.cavities}
        for name in cavity_ids:
            if name not in known:
                raise UnknownName("cavity", name)
            cavity = known[name]
            called = f"{connector.called(cavity)} {colour_words(cavity.base, cavity.tracer)}".strip()
            wires.append({
                "id": f"w{cavity.number}", "name": called, "base": cavity.base, "tracer": cavity.tracer,
                "cavity_id": cavity.id,
            })  # fmt: skip
    else:
        wires = [*named_wires(cavity_ids)]
    tree = {
        "connector_id": connector_id or None, "wires": wires, "speaker_ids": list(speaker_ids), "grounds": grounds,
        "bundles": bundles, "readings": [],
    }  # fmt: skip
    return (Edit(path=at_the(Vehicle, lambda it: it.hunt), value=tree),)


def add_reading(
    design: Design,
    kind: str,
    wires: Sequence[str],
    *,
    value_ohm: float | None = None,
    outcome: str = "",
    speaker_id: str = "",
) -> tuple[Edit, ...]:
    """The edit that adds a reading to the hunt.

    Parameters:
        design: the design.
        kind: one of TestKind.
        wires: the wires it was taken on; for a pop test the cell's plus is on the first; from the second on they sit
            in one clip.
        value_ohm: the ohms of a resistance [ohm].
        outcome: what happened, one of Heard; or the speaker that sounded.
        speaker_id: the speaker that sounded or moved.

    Returns:
        the edit.

    Raises:
        UnknownName: no such test.
    """
    hunt = hunt_of(design)
    if kind not in set(TestKind):
        raise UnknownName("test", kind, ", ".join(TestKind))
    number = 1 + max((int(r.id[1:]) for r in hunt.readings if r.id[1:].isdigit()), default=0)
    first, *clip = wires
    tree: dict[str, Any] = {
        "id": f"r{number}",
        "kind": kind,
        "wire_a_id": first,
        "wire_b_id": clip[0] if clip else None,
        "bundled_ids": clip[1:],
        "value_ohm": value_ohm,
        "speaker_id": outcome if outcome in hunt.speaker_ids else speaker_id or None,
        "heard": outcome if outcome in set(Heard) else None,
    }
    return (Edit(op="add", path=at_the(Hunt, lambda it: it.readings), value=tree),)


def take_fault(design: Design, fault: str, about_id: str, other_id: str = "") -> tuple[Edit, ...]:
    """Edits that take something for broken and go on, or for whole again.

    Parameters:
        design: the design, a hunt begun.
        fault: one of Fault, or nothing for whole.
        about_id: the speaker that is dead or shorted, "" for one of unknown name; the wire that touches something.
        other_id: the wire it touches, for two that touch.

    Returns:
        the edits.

    Raises:
        UnknownName: no hunt, or the speaker or wire is not in it.
        OutOfRange: more than two are broken and not known by name.
    """
    hunt = hunt_of(design)
    wires = {w.id for w in hunt.wires}
    if (about_id and about_id not in {*hunt.speaker_ids, *wires}) or (other_id and other_id not in wires):
        raise UnknownName("speaker or wire of the hunt", about_id)
    if not about_id and fault and hunt.dead_unknown + hunt.shorted_unknown >= MOST_UNKNOWN:
        raise OutOfRange("speakers of unknown name that are broken", MOST_UNKNOWN + 1, "", f"up to {MOST_UNKNOWN}")
    now = hunt.model_dump(mode="json")
    then = dict(now)
    for kind, field, unknown in (
        (Fault.DEAD, "dead_ids", "dead_unknown"),
        (Fault.SHORTED, "shorted_ids", "shorted_unknown"),
    ):
        if about_id in hunt.speaker_ids:
            then[field] = [*(name for name in now[field] if name != about_id), *([about_id] if kind == fault else [])]
        elif not about_id:
            then[unknown] = now[unknown] + (kind == fault) if fault else 0
    if about_id in wires:
        rest = [name for name in now["touching_ids"] if fault and name not in (about_id, other_id)]
        then["touching_ids"] = [*rest, about_id, other_id] if fault == Fault.TOUCHING else rest
        rest = [name for name in now["to_body_ids"] if name != about_id]
        then["to_body_ids"] = [*rest, about_id] if fault == Fault.TO_BODY else rest
    path = at_the(Vehicle, lambda it: it.hunt)
    return tuple(Edit(path=f"{path}/{field}", value=value) for field, value in then.items() if value != now[field])


def withdraw(reading: HuntReading) -> Edit:
    """The edit that withdraws a reading, or takes it up again."""
    return Edit(path=at(reading, lambda it: it.withdrawn), value=not reading.withdrawn)


def read_ohm(hunt: Hunt, guess: Guess) -> float | None:
    """What an ohmmeter read across a pair that is certain, the latest reading; None where none was taken [ohm]."""
    one, other = guess.wires
    for reading in reversed(hunt.readings):
        if reading.withdrawn or reading.kind is not TestKind.RESISTANCE or reading.value_ohm is None:
            continue
        across = (reading.wire_a_id == one and other in reading.clip) or (
            reading.wire_a_id == other and one in reading.clip
        )
        if across and reading.value_ohm < OPEN_OHM:
            return reading.value_ohm
    return None


def put_result(design: Design, found: Found | None = None) -> tuple[Edit, ...]:
    """Edits that put what is certain where it belongs: uses, pairs, polarity and what they lead to into the pin map,
    as measured; the ohms read into what each pair reaches. Loose wires get a map of their own.

    Parameters:
        design: the design.
        found: what the readings say; found anew where not given.

    Returns:
        the edits; polarity only where a pop test has shown it.

    Raises:
        UnknownName: no hunt has been begun.
        OutOfRange: the hunt's wires do not come out even.
    """
    hunt = hunt_of(design)
    found = found or find(design.vehicle, hunt)
    if not (found.certain or found.grounds):
        return ()
    known = _known_by_wire(design, hunt, found)
    edits: list[Edit] = []
    if hunt.connector_id is None:
        edits += _map_of_loose(design, hunt, known)
    else:
        connector = connector_of(design, hunt.connector_id)
        cavities = {c.id: c for c in connector.cavities}
        for wire in hunt.wires:
            cavity = cavities.get(wire.cavity_id or "")
            if cavity is not None:
                path = cavity_at(connector, cavity)
                edits += [Edit(path=f"{path}/{name}", value=value) for name, value in known.get(wire.id, {}).items()]
    return (*edits, *_ohms_read(design, hunt, found))


def _ohms_read(design: Design, hunt: Hunt, found: Found) -> Iterator[Edit]:
    """Edits that put the ohms read across each pair at its output."""
    of_channel = {s.channel_id: s.id for s in design.vehicle.speakers}
    guesses = {g.speaker_id: g for g in found.certain}
    for source in design.vehicle.sources:
        for channel in source.channels:
            guess = guesses.get(of_channel.get(channel.id, ""))
            ohm = read_ohm(hunt, guess) if guess is not None else None
            if ohm is not None:
                path = within(at(source, lambda it: it.channels), channel, lambda it: it.pair_resistance_ohm)
                yield Edit(path=path, value={"value": ohm, "basis": "measured", "how": "by meter", "note": "wire hunt"})


def _known_by_wire(design: Design, hunt: Hunt, found: Found) -> dict[str, dict[str, Any]]:
    """What is certain of each wire, as a cavity holds it."""
    speakers = {s.id: s for s in design.vehicle.speakers}

    def measured(use: CavityUse, **values: Any) -> dict[str, Any]:
        how = {"value": use.value, "basis": "measured", "how": "by meter", "note": "wire hunt"}
        return {"use": how, **values}

    known: dict[str, dict[str, Any]] = {}
    for guess in found.certain:
        speaker, sure = speakers[guess.speaker_id], guess.plus_odds > CERTAIN
        for name in guess.wires:
            sign = (Polarity.PLUS if name == guess.plus else Polarity.MINUS).value
            known[name] = measured(CavityUse.SPEAKER, channel_id=speaker.channel_id, destination=speaker.name) | (
                {"polarity": sign} if sure else {}
            )
    return known | {name: measured(CavityUse.GROUND) for name in found.grounds}


def _map_of_loose(design: Design, hunt: Hunt, known: dict[str, dict[str, Any]]) -> list[Edit]:
    """Edits that make a map of one row of the loose wires, and let the hunt go on in it."""
    taken = design.taken_ids()
    connector_id = free_id("connector", taken)
    cavities = [
        {"id": f"c{n}", "number": n, "base": wire.base, "tracer": wire.tracer, "destination": _called(wire)}
        | known.get(wire.id, {})
        for n, wire in enumerate(hunt.wires, 1)
    ]
    tree = {
        "id": connector_id, "name": "Loose wires", "at_id": None, "gender": "plug",
        "housing": {"rows": 1, "columns": len(hunt.wires), "keyway": "none"}, "cavities": cavities,
    }  # fmt: skip
    wires = [w.model_dump(mode="json") | {"cavity_id": f"c{n}"} for n, w in enumerate(hunt.wires, 1)]
    again = hunt.model_dump(mode="json") | {"connector_id": connector_id, "wires": wires}
    return [
        Edit(op="add", path=at_the(Vehicle, lambda it: it.connectors), value=tree),
        Edit(path=at_the(Vehicle, lambda it: it.hunt), value=again),
    ]


def _called(wire: HuntWire) -> str:
    """A loose wire's own name where its colour does not say it already."""
    return "" if wire.base is not None or wire.name.startswith("wire ") else wire.name
