"""What is shown of a supply: the pieces of a loop, a consumer in a solved state, and the result of a run."""

from __future__ import annotations

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import DistributionBlock, PoweredSubwoofer
from ohmack.core.figures.figure import Figure, Term, weakest_basis, weakest_grade
from ohmack.core.network.model import Place
from ohmack.core.network.solve import Solution
from ohmack.core.physics.conductors import Conductor
from ohmack.core.physics.protection import family
from ohmack.core.record import record
from ohmack.core.supply.wire_choice import WireCandidate
from ohmack.core.wording import amount, times_of

Consumer = Amplifier | PoweredSubwoofer


@record
class Segment:
    """One piece of a loop: where it is, its resistance, the current in it along the way, and what it rests on."""

    id: str
    name: str
    place: Place
    resistance_ohm: float
    current_a: float
    term: Term

    @property
    def drop_v(self) -> float:
        """What is lost in it [v]."""
        return self.resistance_ohm * self.current_a

    @property
    def link_id(self) -> str:
        """The link it belongs to; of the body and straps none."""
        return self.id.rsplit("/", 1)[0]

    def lost(self, current: Term) -> Term:
        """Its loss as an input, resting on what the current rests on too."""
        words = f"{self.name}: {1000 * self.resistance_ohm:.2f} mΩ × {self.current_a:.1f} A"
        both = (self.term, current)
        return Term(words, self.drop_v, "v", weakest_basis(both), weakest_grade(both), self.term.source, self.term.path)


@record
class At:
    """One consumer of a solved state: what its figures are read off."""

    solution: Solution
    name: str
    source_v: float

    @property
    def voltage_v(self) -> float:
        """Between its terminals [v]."""
        return self.solution.voltage_v[self.name]

    @property
    def drop_v(self) -> float:
        """Lost around its loop [v]."""
        return self.source_v - self.voltage_v


@record
class SupplyResult:
    """The supply of one consumer, or of a block that feeds several; `chosen` is None while something needed is
    missing.
    """

    part: Consumer | DistributionBlock
    link: PowerLink
    ground: GroundLink | None
    family: str
    candidates: tuple[WireCandidate, ...]
    chosen: WireCandidate | None
    ground_wire: Conductor | None
    segments: tuple[Segment, ...]  # empty while nothing is solved
    pieces: tuple[Segment, ...]  # the loop's resistances, solved or not
    figures: dict[str, Figure]
    limit: str = ""  # why nothing fits
    collapse: str = ""  # why there is no operating point
    source_v: float | None = None
    way: tuple[PowerLink, ...] = ()  # from the battery on
    battery_id: str = ""

    @property
    def is_main(self) -> bool:
        """Whether it feeds a block and not a consumer."""
        return isinstance(self.part, DistributionBlock)

    @property
    def fuses_a(self) -> tuple[float, ...]:
        """Fuses in the part itself."""
        return () if isinstance(self.part, DistributionBlock) else self.part.fuses_a


def fuse_words(result: SupplyResult, length_unit: str = "m") -> str:
    """The fuse and where it sits, in words."""
    fuse = result.link.fuse
    rating = result.figures["fuse"].value
    if rating is None:
        return "no main fuse"
    if fuse is None:
        return "no main fuse" if result.link is result.way[0] else f"behind the {rating:g} A fuse before it"
    distance = fuse.from_source_m.value
    many = times_of(result.link.fuse_count)
    origin = "post" if result.link.from_id == result.battery_id else "block" if len(result.way) > 1 else "converter"
    where = f", {amount(distance, 'm', length_unit)} from the {origin}" if distance is not None else ""
    return f"{many}{rating:g} A {family(result.family).title.lower()}{where}"
