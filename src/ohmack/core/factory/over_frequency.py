"""Outputs with capacitors, coils or pads in line, over frequency: what the amplifier sees, what each speaker gets."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from ohmack.core.document import Design
from ohmack.core.document.parts import Driver, Subwoofer
from ohmack.core.document.vehicle import Speaker
from ohmack.core.factory.outputs import ChannelLoad, new_at, own_ohm, parted_of
from ohmack.core.figures.figure import Book, Figure, Reading, Term, reference
from ohmack.core.loads.driven import DC_TYPICAL, Driven, new_driver
from ohmack.core.loads.line_parts import InLine, in_line_with
from ohmack.core.loads.meter import MINUS, PLUS, parts_of
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.nodal import solve
from ohmack.core.physics.speaker_impedance import Complexes, Floats, Motion, behind, falls_at_hz, speaker_ohm
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE

HEARD_HZ = np.geomspace(20.0, 20_000.0, 121)
COMES_BACK_DB = -2.0  # under the corner of a first-order high-pass a resistor is down by more than this
NOT_UNDER = 0.8  # of the nominal load an impedance may fall to: IEC 60268-5, from memory


@record(eq=False)
class Branch:
    """One speaker of an output: what lies before it, and its level over frequency against the output."""

    speaker: Speaker
    in_line: InLine
    level_db: Floats
    modelled: bool  # whether resonance and inductance of its coil are on file; else it is taken as a resistor

    @property
    def corner_hz(self) -> float | None:
        """Where it has fallen by 3 dB towards the bass."""
        return falls_at_hz(HEARD_HZ, self.level_db)

    @property
    def comes_back(self) -> tuple[float, float] | None:
        """Where resonance lifts it again under its corner, and to how much [hz, db]; None where it stays down."""
        corner = self.corner_hz
        if corner is None:
            return None
        under = int((corner / 1.25 > HEARD_HZ).sum())
        if not under:
            return None
        peak = int(self.level_db[:under].argmax())
        level = float(self.level_db[peak])
        return (float(HEARD_HZ[peak]), level) if level > COMES_BACK_DB else None


@record(eq=False)
class Swept:
    """An output over frequency."""

    about: str  # the link or the pair it is about
    name: str
    scope: str
    lowest_ohm: float | None  # what it may drive
    load_ohm: Floats
    branches: tuple[Branch, ...]
    least: Figure
    corners: tuple[tuple[Branch, Figure], ...]

    @property
    def bears_ohm(self) -> float | None:
        """What it may fall to somewhere over frequency; None where nothing is stated."""
        return None if self.lowest_ohm is None else NOT_UNDER * self.lowest_ohm

    def is_like(self, other: Swept) -> bool:
        """Whether another output does the same, as the right side does what the left one does."""
        levels = [branch.level_db for branch in self.branches]
        return (
            len(levels) == len(other.branches)
            and bool(np.allclose(self.load_ohm, other.load_ohm))
            and all(np.allclose(a, b.level_db) for a, b in zip(levels, other.branches, strict=True))
        )

    def under_from_hz(self, ohm: float) -> float:
        """Where its impedance first is this low, coming from the bass [hz]."""
        return float(HEARD_HZ[int((self.load_ohm < ohm).argmax())])


LEAST = Reading(
    "Lowest impedance, 20 Hz to 20 kHz", "ohm", "least |Z| of everything on the output, what is in line counted",
    lambda ohms: float(ohms.min()), PHYSICS,
)  # fmt: skip
FALLS = Reading(
    "High-pass as it comes out", "hz", "where its level has fallen by 3 dB, with the impedance that is on file",
    lambda branch: branch.corner_hz, PHYSICS,
)  # fmt: skip


def _own(design: Design, speaker: Speaker, nominal_ohm: float) -> tuple[Complexes, bool]:
    """(impedance of what plays in a place [ohm], whether more than its nominal is on file)."""
    new = new_driver(design, speaker.id)
    le_h = (new.le_mh or 0.0) / 1000 if new is not None else 0.0
    if new is not None and new.fs_hz is not None and new.qms is not None and new.qes is not None:
        re_ohm = new.dc_resistance_ohm or nominal_ohm * DC_TYPICAL
        return speaker_ohm(HEARD_HZ, re_ohm, le_h, Motion(new.fs_hz, new.qms, new.qes)), True
    return speaker_ohm(HEARD_HZ, nominal_ohm, le_h), False


def _db(ratio: Complexes) -> Floats:
    found: Floats = 20 * np.log10(np.maximum(np.abs(ratio), 1e-6))
    return found


def _seen(
    design: Design, speaker: Speaker, nominal_ohm: float, pair: bool
) -> tuple[InLine, Complexes, Complexes, bool]:
    line = in_line_with(design, speaker, nominal_ohm, pair)
    own, modelled = _own(design, speaker, nominal_ohm)
    whole, share = behind(HEARD_HZ, own, line.before)
    return line, whole, share, modelled


def compute_over_frequency(book: Book, loads: Sequence[LoadResult], rows: Sequence[ChannelLoad]) -> list[Swept]:
    """Every output of single-coil speakers with a capacitor, coil or pad in line.

    Parameters:
        book: the book of the design.
        loads: outputs of new amplifiers.
        rows: outputs of the factory system or a new radio.

    Returns:
        impedance and levels over HEARD_HZ, the lowest impedance, and where each capacitor's high-pass comes out.
        Speakers whose resonance is not on file are resistors of their nominal impedance.

    Source: nodal analysis: textbook circuit theory.
    """
    found = [_of_load(book, load) for load in loads]
    found += [_of_row(book, row) for row in rows]
    return [one for one in found if one is not None]


def _of_load(book: Book, load: LoadResult) -> Swept | None:
    speakers = {speaker.id: speaker for speaker in book.design.vehicle.speakers}
    all_driven = (*load.driven, *load.beside)
    if not load.chosen.stays or any(d.id not in speakers or d.through_net or len(d.coils) != 1 for d in all_driven):
        return None
    places = {d.id: speakers[d.id] for d in all_driven}
    ohms = {d.id: _nominal(d, places[d.id], new_driver(book.design, d.id)) for d in all_driven}
    seen = {name: _seen(book.design, place, ohms[name], pair=False) for name, place in places.items()}
    if all(line.before.nothing for line, *_ in seen.values()):
        return None
    network = [
        replace(part, impedance_ohm=seen[d.id][1])
        for part in parts_of(load.chosen.wiring)
        if (d := next((d for d in load.driven if d.coils[0].name == part.name), None)) is not None
    ]
    solution = solve(network, PLUS, MINUS)
    admittance = 1 / solution.input_ohm
    branches = []
    for d in all_driven:
        line, whole, share, modelled = seen[d.id]
        volts = solution.volts[d.coils[0].name] if d in load.driven else np.ones_like(whole)
        if d in load.beside:
            admittance = admittance + 1 / whole
        branches.append(Branch(speakers[d.id], line, _db(volts * share), modelled))
    terms = tuple(term for d in all_driven for term in d.terms)
    name = load.channel_name
    return _swept(book, load.link.id, name, load.scope, load.lowest_ohm, np.abs(1 / admittance), branches, terms)


def _nominal(driven: Driven, speaker: Speaker, new: Driver | None) -> float:
    """Nominal impedance of what plays in a place, before any pad [ohm]."""
    return new.impedance_ohm if new is not None else speaker.impedance_ohm.value or driven.coils[0].impedance_ohm


def _of_row(book: Book, row: ChannelLoad) -> Swept | None:
    design, new = book.design, new_at(book.design)
    in_series = any(s.pairing == "series" and s.paired_with_id for s in row.speakers)
    others = any(isinstance(new.get(s.id), Subwoofer) for s in row.speakers) or parted_of(design, row.speakers)
    if in_series or others or not row.speakers:
        return None
    terms = {speaker.id: own_ohm(book, speaker, new) for speaker in row.speakers}
    if any(term.value is None for term in terms.values()):
        return None
    seen = [(s, *_seen(design, s, terms[s.id].value, pair=True)) for s in row.speakers]
    if all(line.before.nothing for _, line, *_ in seen):
        return None
    admittance = sum((1 / whole for _, _, whole, _, _ in seen), np.zeros(HEARD_HZ.shape, dtype=complex))
    branches = [Branch(s, line, _db(share), modelled) for s, line, _, share, modelled in seen]
    ohm = np.abs(1 / admittance)
    about = row.channel.id
    return _swept(book, about, row.name, about, row.lowest.value, ohm, branches, tuple(terms.values()))


def _swept(
    book: Book, about: str, name: str, scope: str, lowest_ohm: float | None, load_ohm: Floats,
    branches: Sequence[Branch], terms: tuple[Term, ...],
) -> Swept:  # fmt: skip
    line_terms = tuple(dict.fromkeys(_line_terms(book, branches)))
    least = book.reading(
        f"{scope}/least_ohm", LEAST, load_ohm, *terms, *line_terms, name=f"Lowest impedance over frequency, {name}"
    )
    corners = [
        (
            branch,
            book.reading(
                f"{branch.in_line.capacitor.id}/{branch.speaker.id}/corner_hz", FALLS, branch, *terms, *line_terms,
                name=f"High-pass of {branch.speaker.name.lower()} as it comes out",
            ),
        )
        for branch in branches
        if branch.in_line.capacitor is not None
    ]  # fmt: skip
    return Swept(about, name, scope, lowest_ohm, load_ohm, tuple(branches), least, tuple(corners))


def _line_terms(book: Book, branches: Sequence[Branch]) -> Iterator[Term]:
    for branch in branches:
        capacitor, coil = branch.in_line.capacitor, branch.in_line.coil
        if capacitor is not None:
            yield book.part(capacitor, lambda it: it.capacitance_uf, capacitor.name, "uf")
        if coil is not None:
            yield book.part(coil, lambda it: it.inductance_mh, coil.name, "mh")
        if branch.in_line.usual_hz is not None:
            yield reference(f"{branch.speaker.name}: its own capacitor", branch.in_line.usual_hz, "hz", PRACTICE)
