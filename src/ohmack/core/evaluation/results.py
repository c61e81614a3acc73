"""Everything computed so far, as the rules see it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from ohmack.core.box.arrivals import Arrival
from ohmack.core.box.crossing import Meeting
from ohmack.core.box.judged import BoxResult
from ohmack.core.build.cut_list import CutList, cut_list
from ohmack.core.build.full_size import FullSize, templates
from ohmack.core.build.holes import HoleRow, register
from ohmack.core.build.lists import FuseRow, WireRow
from ohmack.core.build.order import OrderRow, order_list
from ohmack.core.build.preparation import Preparation, preparations
from ohmack.core.build.quote import Quote, quote_of
from ohmack.core.build.route_cards import RouteCard, route_cards
from ohmack.core.build.sundries import Sundry, sundries
from ohmack.core.build.teardown import Teardown, teardown
from ohmack.core.build.work_plan import WorkPlan, work_plan
from ohmack.core.document import Design
from ohmack.core.errors import OutOfRange
from ohmack.core.factory.coil_choices import OwnPlace, own_places
from ohmack.core.factory.functions import Verdict, judge_functions
from ohmack.core.factory.graph import ModuleGraph
from ohmack.core.factory.music import MusicVerdict, judge_music
from ohmack.core.factory.outputs import ChannelLoad
from ohmack.core.factory.over_frequency import Swept
from ohmack.core.factory.pickup_places import Pickup, pickups
from ohmack.core.factory.series_capacitors import LineCapacitor
from ohmack.core.factory.system import TierVerdict, judge_tier
from ohmack.core.figures.figure import Book, Figure
from ohmack.core.fit.clearances import FitResult
from ohmack.core.fit.runs import Run
from ohmack.core.fit.zones import BulkheadCrossing, Crossing
from ohmack.core.handover.cuts import Cut, cuts_of
from ohmack.core.handover.fuse_map import FuseSpot, fuse_map
from ohmack.core.handover.left_open import LeftOpen, left_open
from ohmack.core.handover.promised import Promise, promises
from ohmack.core.handover.settings import Setting, settings_record
from ohmack.core.handover.state import HandOverState, Soak, hand_over, soak_of
from ohmack.core.harness.joints import JointTable, joint_table
from ohmack.core.harness.speaker_circuits import Circuit, speaker_circuits
from ohmack.core.harness.wire_finder import Found, find
from ohmack.core.lazy import lazy
from ohmack.core.loads.beside import Beside
from ohmack.core.loads.drivers import Drive, drives_of
from ohmack.core.loads.pads import Crossed
from ohmack.core.loads.wirings import AmplifierLoad, LoadResult
from ohmack.core.prove.as_built import as_built
from ohmack.core.prove.car import Car
from ohmack.core.prove.closing import closing_gate
from ohmack.core.prove.evidence import searched
from ohmack.core.prove.finder import Finder
from ohmack.core.prove.judged import ProofState, proof_state
from ohmack.core.prove.presumed import doubted, presumed
from ohmack.core.prove.search import Search
from ohmack.core.prove.windows import Windows
from ohmack.core.signal.balance import Balanced
from ohmack.core.signal.crossovers import Crossover, flat_first
from ohmack.core.signal.fade import with_fade
from ohmack.core.signal.kept_amplifiers import KeptAmplifier
from ohmack.core.signal.ladder import Volume
from ohmack.core.signal.levels import OutputSignal, SignalResult
from ohmack.core.signal.lines import LineResult
from ohmack.core.signal.remote_load import SwitchOn
from ohmack.core.signal.responses import Measured
from ohmack.core.signal.speaker_level import DirectInput
from ohmack.core.supply.budget import Budget
from ohmack.core.supply.charging import Charging
from ohmack.core.supply.consumers import PowerStudy
from ohmack.core.supply.dip_study import DipStudy, compute_dip
from ohmack.core.supply.draws import Wanted
from ohmack.core.supply.drop_test import DropTest
from ohmack.core.supply.energy import Energy, even_programmes
from ohmack.core.supply.engine_off import EngineOff, compute_engine_off
from ohmack.core.supply.own_runs import SelfFed
from ohmack.core.supply.pack_feed import PackFeed
from ohmack.core.supply.parked import Parked
from ohmack.core.supply.power_tree import Node, compute_cold, compute_tree
from ohmack.core.supply.protection_study import Protected
from ohmack.core.supply.radio_feeds import RadioFeed
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.schools import SchoolResult, compute_schools
from ohmack.core.supply.small_circuits import ConverterFeed, SpeakerCable
from ohmack.core.supply.stiffening import Stiffening
from ohmack.core.supply.wire_heat import WireHeat, compute_wire_heat
from ohmack.core.survey.readings import Baseline
from ohmack.core.wording import amount


@dataclass
class Results:
    """The figures and structures of all sections.

    A section's attribute is there once `core.evaluate` has worked it out.
    """

    book: Book
    compute: Callable[[Design], Results] | None = None  # how another design is worked out
    filed: dict[str, dict[str, Figure]] = field(default_factory=dict)  # by section, the figures it filed
    runs: dict[str, Run] = field(default_factory=dict)
    loads: list[LoadResult] = field(default_factory=list)
    beside: list[Beside] = field(default_factory=list)
    amplifier_loads: list[AmplifierLoad] = field(default_factory=list)
    crossed: list[Crossed] = field(default_factory=list)
    wanted: Wanted = field(default_factory=Wanted)
    power: PowerStudy = field(default_factory=PowerStudy)
    budget: Budget | None = None
    energy: Energy | None = None
    protection: list[Protected] = field(default_factory=list)
    drop_tests: list[DropTest] = field(default_factory=list)
    stiffening: list[Stiffening] = field(default_factory=list)
    sources: dict[str, Figure] = field(default_factory=dict)
    source_power: None = None
    volume: Volume | None = None
    signals: list[SignalResult] = field(default_factory=list)
    lines: list[LineResult] = field(default_factory=list)
    responses: list[Measured] = field(default_factory=list)
    kept_amplifier: KeptAmplifier | None = None
    crossovers: list[Crossover] = field(default_factory=list)
    boxes: list[BoxResult] = field(default_factory=list)
    arrivals: list[Arrival] = field(default_factory=list)
    meetings: list[Meeting] = field(default_factory=list)
    balance: list[Balanced] = field(default_factory=list)
    direct_inputs: list[DirectInput] = field(default_factory=list)
    switch_ons: list[SwitchOn] = field(default_factory=list)
    feeds: list[ConverterFeed] = field(default_factory=list)
    charging: list[Charging] = field(default_factory=list)
    cables: list[SpeakerCable] = field(default_factory=list)
    cost: Figure | None = None
    pack_feeds: list[PackFeed] = field(default_factory=list)
    wire_rows: list[WireRow] = field(default_factory=list)
    fuse_rows: list[FuseRow] = field(default_factory=list)
    pickup: Figure | None = None
    channel_loads: list[ChannelLoad] = field(default_factory=list)
    over_frequency: list[Swept] = field(default_factory=list)
    line_capacitors: list[LineCapacitor] = field(default_factory=list)
    self_fed: list[SelfFed] = field(default_factory=list)
    parked: Parked | None = None
    radio_feeds: list[RadioFeed] = field(default_factory=list)
    fits: list[FitResult] = field(default_factory=list)
    crossings: list[Crossing] = field(default_factory=list)
    bulkhead: list[BulkheadCrossing] = field(default_factory=list)
    earlier_work: Figure | None = None
    baseline: Baseline = field(default_factory=lambda: Baseline((), (), (), None))
    later: Results | None = None  # the same car with what comes later too, where something does

    @property
    def whole_design(self) -> Design:
        """The design with what comes later too."""
        return (self.later or self).design

    @property
    def supplies(self) -> list[SupplyResult]:
        """Every power run with what it feeds, main runs first."""
        return self.power.supplies

    def crossover_of(self, scope: str) -> Crossover | None:
        """The filters of an output, or of a powered subwoofer, by what its figures are filed under."""
        return next((c for c in self.crossovers if c.scope == scope), None)

    def flat_for(self, output: OutputSignal) -> str:
        """Why the filters of an output are flat while its tone is read, in words; empty where they hardly touch it."""
        return flat_first(self.crossovers, output.load.scope, output.tone_hz(self.design.policy.tone_hz))

    def lead_ohm(self, load: LoadResult) -> float:
        """Resistance of the cable an output is read through [ohm]; zero where several hang on it, or none is laid."""
        cable = next((c for c in self.cables if c.link.id == load.link.id), None)
        return cable.there_and_back_ohm if cable is not None and len(load.links) == 1 else 0.0

    @lazy
    def pickups(self) -> tuple[Pickup, ...]:
        """Where the signal could be taken from, the best place first."""
        return pickups(self.design)

    @lazy
    def tier(self) -> TierVerdict:
        """What the questionnaire says about the factory system."""
        return judge_tier(self.design.vehicle)

    @lazy
    def ledger(self) -> tuple[Verdict, ...]:
        """The fate of every function under the plan."""
        return with_fade(self.design, judge_functions(self.design))

    @lazy
    def music(self) -> tuple[MusicVerdict, ...]:
        """Whether music still reaches the factory amplifiers that stay."""
        return judge_music(self.design)

    @lazy
    def ledger_names(self) -> dict[str, str]:
        """Names of the radio, modules, feeds and speakers by id."""
        return ModuleGraph(self.design).names

    @lazy
    def joints(self) -> JointTable:
        """Every joint between the factory loom and the plan."""
        return joint_table(self.design, self.later.design if self.later else None)

    @lazy
    def hunt(self) -> Found | str | None:
        """What the readings of the wire hunt say; a sentence where its wires do not come out even."""
        hunt = self.design.vehicle.hunt
        if hunt is None:
            return None
        try:
            return find(self.design.vehicle, hunt)
        except OutOfRange as error:
            return str(error)

    @lazy
    def hardest_supply(self) -> SupplyResult | None:
        """The consumer that loses most, one that collapses first of all; None where nothing is fed."""
        fed = [s for s in self.supplies if not s.is_main]
        return max(fed, key=lambda s: (bool(s.collapse), s.figures["drop"].value or 0.0), default=None)

    @lazy
    def wire_heat(self) -> tuple[WireHeat, ...]:
        """How warm every power run gets, and its ampacity computed beside the table's."""
        return compute_wire_heat(self.book, self.supplies)

    @lazy
    def dip(self) -> DipStudy | str:
        """What a bass note does to the amplifier and to the lights; a sentence where that cannot be said."""
        return compute_dip(self.book, self.power, self.supplies, self.charging)

    @lazy
    def music_dip(self) -> DipStudy | str:
        """The same in the customer's music; a sentence where that cannot be said."""
        music = self.design.use.music
        if music is None:
            return "No music is read in yet."
        return compute_dip(self.book, self.power, self.supplies, self.charging, music)

    @lazy
    def engine_off(self) -> EngineOff | None:
        """How long one may listen; None where nothing is fed."""
        return compute_engine_off(self.book, self.power, self.supplies, self.self_fed)

    @lazy
    def even_programmes(self) -> dict[str, Figure]:
        """By season, the loudest programme the usual drive still carries."""
        return {} if self.energy is None else even_programmes(self.book, self.supplies, self.energy)

    @lazy
    def power_tree(self) -> tuple[Node, ...]:
        """Every source with what it feeds: currents at full level, volts at every end."""
        fed = self.supplies, self.charging, self.feeds, self.self_fed, self.pack_feeds
        return compute_tree(self.book, self.power, *fed)

    @lazy
    def cold_losses(self) -> dict[str, Figure]:
        """By consumer, what is lost with the runs at −18 °C."""
        return compute_cold(self.book, self.power, self.supplies)

    @lazy
    def current_schools(self) -> tuple[SchoolResult, ...]:
        """What each school of design current comes to on the same network."""
        return compute_schools(self.book, self.wanted)

    @lazy
    def car(self) -> Car:
        """The car as it stands wired by this plan."""
        return as_built(self)

    @lazy
    def windows(self) -> Windows:
        """Between what and what a sound car like it reads."""
        return Windows(self.car)

    @lazy
    def proof(self) -> ProofState:
        """How the proof of this plan stands."""
        return proof_state(self)

    @lazy
    def soak(self) -> Soak:
        """What is tried after the proof, and how it stands."""
        return soak_of(self)

    @lazy
    def hand_over(self) -> HandOverState:
        """Whether the car may go."""
        return hand_over(self)

    @lazy
    def promises(self) -> tuple[Promise, ...]:
        """What was promised, with what came of it."""
        return promises(self)

    @lazy
    def fuse_map(self) -> tuple[FuseSpot, ...]:
        """Every fuse by number, where it sits, what goes silent without it."""
        return fuse_map(self)

    @lazy
    def settings(self) -> tuple[Setting, ...]:
        """Everything that is set, as the car is left."""
        return settings_record(self)

    @lazy
    def cuts(self) -> tuple[Cut, ...]:
        """What was cut, spliced and drilled."""
        return cuts_of(self)

    @lazy
    def left_open(self) -> tuple[LeftOpen, ...]:
        """What is left with the customer or the shop."""
        return left_open(self)

    @lazy
    def finder(self) -> Finder:
        """Everything that can be wrong in this car, and what each would show."""
        return Finder(self.searched_in, frozenset(link.id for link in self.design.links if link.unread))

    @lazy
    def searched_in(self) -> Results:
        """What a search rests on: these results, or those of a car whose unread cables are taken as usual."""
        guess = presumed(self)
        if guess is None or self.compute is None:
            return self
        results = self.compute(guess.design)
        results.__dict__["car"] = doubted(results.car, guess.link_ids)
        return results

    @lazy
    def search(self) -> Search:
        """The search for a fault by what is said and read so far."""
        return searched(self)

    @lazy
    def work_plan(self) -> WorkPlan:
        """The steps of the work as they stand, in order."""
        return work_plan(self)

    @lazy
    def cut_list(self) -> CutList:
        """Every cable with its number, and which reel it comes off."""
        return cut_list(self)

    @lazy
    def closing_gate(self) -> str:
        """Why nothing is put back yet; empty where nothing stands against it."""
        return closing_gate(self)

    @lazy
    def sundries(self) -> tuple[Sundry, ...]:
        """Ties, loom, tape and grommets by the way the cables take."""
        return sundries(self)

    @lazy
    def route_cards(self) -> list[RouteCard]:
        """A card for every run of new cable."""
        return route_cards(self)

    @lazy
    def full_size(self) -> list[FullSize]:
        """What is cut by a template at full size."""
        return templates(self)

    @lazy
    def holes(self) -> list[HoleRow]:
        """Every hole made in the car, planned or not."""
        return register(self)

    @lazy
    def quote(self) -> Quote:
        """What the work costs, and what changed since somebody accepted it."""
        return quote_of(self)

    @lazy
    def teardown(self) -> Teardown:
        """What came off the car, and what of it is still out."""
        return teardown(self.design.work, self.work_plan)

    @lazy
    def order(self) -> tuple[OrderRow, ...]:
        """Everything to order for what is fitted now."""
        return order_list(self)

    @lazy
    def prepare(self) -> tuple[Preparation, ...]:
        """What to prepare today for what comes later."""
        return preparations(self, self.later)

    @lazy
    def own_places(self) -> tuple[OwnPlace, ...]:
        """Drivers of several coils in places of the car, with every way to wire them."""
        return own_places(self.design, self.book, self.channel_loads)

    @lazy
    def drives(self) -> tuple[Drive, ...]:
        """What drives each speaker of the car under this plan."""
        return drives_of(self.design)

    @lazy
    def circuits(self) -> tuple[Circuit, ...]:
        """What each speaker pair reaches."""
        return speaker_circuits(self.design)

    @property
    def design(self) -> Design:
        """The design under evaluation."""
        return self.book.design

    def say(self, value: float, unit: str) -> str:
        """A value with its unit, lengths in the shop's preference."""
        return amount(value, unit, self.design.policy.length_unit)
