"""What one reading of a hunt allows: which pair each speaker may have, which wires may be ground or lead elsewhere.

Wires that touch each other or the body widen what a reading may mean. What is allowed then is never too little, so
what is certain stays certain; it may be more than what is possible.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import lru_cache
from math import prod

import numpy as np
from numpy.typing import NDArray

from ohmack.core.document.harness import Heard, Hunt, HuntReading, TestKind
from ohmack.core.harness.hunt_targets import Target
from ohmack.core.physics.labelled_matching import pairs_of
from ohmack.core.record import record
from ohmack.core.reference import table

Bools = NDArray[np.bool_]


@record
class Allowed:
    """What is left: pairs by speaker and orientation, and what each wire may be alone."""

    pairs: Bools  # [speaker, pair, orientation]
    grounds: Bools  # [wire]
    others: Bools  # [wire]
    clear: bool = True  # whether the reading says anything


@record
class Ground:
    """What every reading of a hunt is seen against: its wires, what touches, and wires that may be grounds."""

    wire_ids: tuple[str, ...]
    touching: frozenset[int]
    to_body: frozenset[int]
    may_be_grounds: frozenset[int]  # empty with less than two grounds: only two of them read as one


def ground_of(hunt: Hunt, readings: Sequence[HuntReading]) -> Ground:
    """What the readings of a hunt are seen against.

    Parameters:
        hunt: the hunt.
        readings: those that count.

    Returns:
        wires by number, those that touch, and those that may both be grounds and so read as one wire.
    """
    number = {wire.id: n for n, wire in enumerate(hunt.wires)}
    isolated = {number[r.wire_a_id] for r in readings if r.kind is TestKind.BODY and r.heard is Heard.OPEN}
    return Ground(
        tuple(number),
        frozenset(number[name] for name in hunt.touching_ids),
        frozenset(number[name] for name in hunt.to_body_ids),
        frozenset(set(number.values()) - isolated) if hunt.grounds > 1 else frozenset(),
    )


def together(ground: Ground, targets: tuple[Target, ...], readings: Sequence[HuntReading]) -> Allowed:
    """What several readings allow together.

    Parameters:
        ground: what they are seen against.
        targets: the speakers.
        readings: the readings to hold together.

    Returns:
        what each of them allows.
    """
    wires = len(ground.wire_ids)
    said = _said_against(ground, targets)
    packed, grounds, others = said.before
    for reading in readings:
        one = said.by(reading).packed
        packed, grounds, others = packed & one[0], grounds & one[1], others & one[2]
    shape = (len(targets), len(pairs_of(wires)), 2)
    return Allowed(_unpacked(packed, *shape), _unpacked(grounds, wires), _unpacked(others, wires))


Packed = tuple[int, int, int]  # pairs, grounds and others, a bit for each


def _packed(allowed: Allowed) -> Packed:
    """A number for each table: some hundred tables of as many readings are held together by one step each."""
    return (_bits(allowed.pairs), _bits(allowed.grounds), _bits(allowed.others))


def _bits(table: Bools) -> int:
    return int.from_bytes(np.packbits(table), "big")


def _unpacked(packed: int, *shape: int) -> Bools:
    size = prod(shape)
    held = np.frombuffer(packed.to_bytes((size + 7) // 8, "big"), dtype=np.uint8)
    return np.unpackbits(held, count=size).view(np.bool_).reshape(shape)


@record(eq=False)
class _Said:
    """What one reading allows, and the same packed."""

    reading: HuntReading
    allowed: Allowed
    packed: Packed


class _SaidAgainst:
    """What readings allow of some speakers, seen against one ground; the same readings are held together in many
    sets.
    """

    def __init__(self, ground: Ground, targets: tuple[Target, ...]) -> None:
        self.ground, self.targets = ground, targets
        self._known: dict[str, _Said] = {}  # by the readings' ids, so that no more is held than a hunt has of them
        wires = len(ground.wire_ids)
        whole = _everything(len(targets), wires)
        for n, pair in enumerate(pairs_of(wires)):
            if ground.touching.issuperset(pair):
                whole.pairs[:, n] = False  # two wires of one pair that touch are a shorted pair
        self.before = _packed(whole)

    def by(self, reading: HuntReading) -> _Said:
        """What a reading allows."""
        known = self._known.get(reading.id)
        if known is None or (known.reading is not reading and known.reading != reading):
            allowed = _judged(self.ground, self.targets, reading)
            known = self._known[reading.id] = _Said(reading, allowed, _packed(allowed))
        return known


_said_against = lru_cache(maxsize=64)(_SaidAgainst)


def _everything(targets: int, wires: int) -> Allowed:
    return Allowed(
        np.ones((targets, len(pairs_of(wires)), 2), dtype=bool), np.ones(wires, dtype=bool), np.ones(wires, dtype=bool)
    )


def allowed_by(ground: Ground, targets: tuple[Target, ...], reading: HuntReading) -> Allowed:
    """What one reading allows.

    Parameters:
        ground: what it is seen against.
        targets: the speakers with what their pairs read.
        reading: the reading.

    Returns:
        what is allowed; everything, and not clear, where it says nothing.
    """
    return _said_against(ground, targets).by(reading).allowed


def _judged(ground: Ground, targets: tuple[Target, ...], reading: HuntReading) -> Allowed:
    number = {name: n for n, name in enumerate(ground.wire_ids)}
    a, clip = number[reading.wire_a_id], tuple(number[name] for name in reading.clip)
    mask = _Mask(ground, targets, a, clip)
    limits = table("harness", "hunt")
    if reading.kind is TestKind.BODY:
        mask.body(reading.heard is Heard.CONNECTED)
    elif reading.kind is TestKind.RESISTANCE:
        ohm = reading.value_ohm or 0.0
        if ohm >= limits["open_ohm"]:
            mask.apart([not t.reads_open for t in targets], by_ohms=True)
        elif ohm <= limits["pair_ohm"]:
            mask.together([not t.reads_open and t.low_ohm <= ohm <= t.high_ohm for t in targets], ohm)
        else:
            mask.clear = False
    elif reading.heard is Heard.NOTHING:
        mask.apart([not t.silent if reading.kind is TestKind.TRIAL else t.may_pop for t in targets])
    else:
        mask.together([not t.silent and reading.speaker_id in (None, t.id) for t in targets])
        if reading.kind is TestKind.POP:
            mask.plus(reading.heard is Heard.OUT)
    return Allowed(mask.pairs, mask.grounds, mask.others, mask.clear)


class _Mask:
    """What one reading on wire `a` against a clip of wires leaves."""

    def __init__(self, ground: Ground, targets: tuple[Target, ...], a: int, clip: tuple[int, ...]) -> None:
        wires = len(ground.wire_ids)
        every = _everything(len(targets), wires)
        self.pairs, self.grounds, self.others = every.pairs.copy(), every.grounds.copy(), every.others.copy()
        self.clear = True
        self.ground, self.a, self.clip = ground, a, clip
        self.ends = np.array(pairs_of(wires), dtype=np.int64).reshape(-1, 2)
        self.loose = ground.touching | ground.to_body

    def _has(self, wire: int) -> Bools:
        found: Bools = (self.ends == wire).any(axis=1)
        return found

    def _with(self, wire: int, partners: Collection[int]) -> Bools:
        """[pair] whether it is of this wire and one of the partners."""
        partner = np.where(self.ends[:, 0] == wire, self.ends[:, 1], self.ends[:, 0])
        one_of = np.zeros(len(self.ground.wire_ids), dtype=bool)
        one_of[list(partners)] = True
        found: Bools = self._has(wire) & one_of[partner]
        return found

    def _joined_to(self, wire: int) -> frozenset[int]:
        """Wires that touch this one, itself among them."""
        for group in (self.ground.touching, self.ground.to_body):
            if wire in group:
                return group
        return frozenset((wire,))

    def body(self, connected: bool) -> None:
        """Continuity to the body, or none."""
        if self.a in self.ground.to_body:
            return
        if not connected:
            self.grounds[self.a] = False
            return
        self.pairs[:, self._has(self.a) & ~self._with(self.a, self.ground.to_body)] = False
        self.others[self.a] = False

    def apart(self, shut: Sequence[bool], *, by_ohms: bool = False) -> None:
        """No pair of a and a wire of the clip, for the speakers that would have shown."""
        rows = np.array(shut, dtype=bool)
        own = self._joined_to(self.a)
        if by_ohms and len(own) > 1 and own & set(self.clip):
            self.pairs[:] = False  # they touch, so they never read open
            return
        partners = {wire for b in self.clip for wire in self._joined_to(b)} - own
        for wire in own:
            self.pairs[rows] &= ~self._with(wire, partners)[None, :, None]

    def together(self, speakers: Sequence[bool], ohm: float | None = None) -> None:
        """a belongs with a wire of the clip, at one of some speakers."""
        rows, clip = np.array(speakers, dtype=bool), set(self.clip)
        may = self.ground.may_be_grounds
        if ohm is not None and ohm <= table("harness", "hunt")["shorted_ohm"] and self.a in may and clip & may:
            self.clear = False  # two grounds read so too
            return
        if self.a in self.loose:
            if len(clip) > 1 or clip & self.loose:
                self.clear = False
                return
            (b,) = clip
            self._partner_among(b, self.loose | {self.a}, self.a in self.ground.to_body)
            return
        self._partner_among(self.a, clip | self.loose, bool(self.ground.to_body))
        self.pairs[~rows] &= ~self._with(self.a, clip - self.loose)[None, :, None]
        if len(clip) == 1 and not clip & self.loose:
            self._partner_among(next(iter(clip)), self.loose | {self.a}, bool(self.ground.to_body))

    def _partner_among(self, wire: int, partners: Collection[int], may_ground: bool) -> None:
        self.pairs[:, self._has(wire) & ~self._with(wire, partners)] = False
        self.others[wire] = False
        self.grounds[wire] &= may_ground

    def plus(self, on_a: bool) -> None:
        """The cell's plus was on a, and the cone went out, or in.

        Where wires touch, the current may have gone through another wire's pair: only pairs it must have gone through
        are turned.
        """
        clip = set(self.clip)
        if self.a in self.loose:
            if len(clip) == 1 and not clip & self.loose:
                (b,) = clip
                self._turned(b, not on_a, self.loose)
            return
        self._turned(self.a, on_a, clip if self.loose and not clip & self.loose else clip | self.loose)

    def _turned(self, wire: int, is_plus: bool, partners: Collection[int]) -> None:
        """The pairs of a wire with these partners have it as their plus, or as their minus."""
        mine = self._with(wire, partners)
        for orientation in (0, 1):
            wrong = mine & ((self.ends[:, orientation] == wire) != is_plus)
            self.pairs[:, wrong, orientation] = False
