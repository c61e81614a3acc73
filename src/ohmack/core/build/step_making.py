"""The steps of the work, generated from the plan: routes, passages, links, joints, positions, what has to come off."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.steps import Phase, Step
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.links import (
    FeedLink,
    GroundLink,
    LineLink,
    Link,
    Pickup,
    PowerLink,
    RemoteLink,
    SpeakerLink,
    TapLink,
    TapPlace,
)
from ohmack.core.document.parts import (
    ChargingRelay,
    Converter,
    DistributionBlock,
    HeadUnit,
    PoweredSubwoofer,
    StiffeningCapacitor,
    Subwoofer,
    VoltageConverter,
)
from ohmack.core.document.vehicle import GroundKind, Passage, Powertrain, Speaker, SpeakerPlace
from ohmack.core.fit.runs import over_loom_from
from ohmack.core.physics.geometry import Point
from ohmack.core.reference import table
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


LONG_M = 1.0  # a run longer than this along the car lies under the sill trims
ASIDE = 0.25  # of the car's half width: farther out a run lies under a sill
REAR = 0.6  # of the car's length: farther back it is the load space
HEAVY_KG = 20.0  # from here two carry it, common practice
THICK_MM2 = 5.0  # a cable from here on is stiff


def generated(results: Results) -> tuple[Step, ...]:
    """The steps a plan asks for.

    Parameters:
        results: the evaluated plan.

    Returns:
        steps, each after what it needs as far as the phases go; none where the plan changes nothing. Source of minutes
        and tools: common practice (`reference/steps.toml`).
    """
    return tuple(_Maker(results).all())


class _Maker:
    """Makes the steps of one plan."""

    def __init__(self, results: Results) -> None:
        self.results = results
        self.design: Design = results.design
        vehicle = self.design.vehicle
        self.length_m = vehicle.length_m.value or 4.5
        self.half_m = (vehicle.width_m.value or 1.8) / 2
        self.steps: dict[str, Step] = {}
        self.taken: list[str] = []  # steps that take something off, in order

    def add(
        self,
        name: str,
        phase: Phase,
        what: str,
        kind: str,
        needs: tuple[str, ...] = (),
        where: Point | None = None,
        cautions: tuple[str, ...] = (),
        one_shot: bool = False,
        takes_off: str = "",
        people: int = 0,
        share: float = 1.0,
        times: float = 1.0,
    ) -> str:
        """File a step once; gives its id."""
        low, high, hands, tools = table("steps", "kinds")[kind]
        known = tuple(dict.fromkeys(n for n in needs if n in self.steps))
        self.steps[name] = Step(
            name,
            phase,
            what,
            kind,
            known,
            where,
            cautions,
            one_shot,
            takes_off,
            float(low) * share * times,
            float(high) * share * times,
            tools,
            people or hands,
        )
        return name

    def all(self) -> Iterator[Step]:
        """Every step."""
        if not self.design.links and not self._swaps():
            return iter(())
        self._on_the_table()
        self._before()
        self._take_off()
        self._lay()
        self._fix()
        self._join()
        self._power()
        self._close()
        return iter(self.steps.values())

    # -- what the plan is ----------------------------------------------------------------------------------------

    def _swaps(self) -> list[tuple[Speaker, str]]:
        """Speaker places that get a new driver, with its name."""
        return [(d.speaker, d.driver.name) for d in self.results.drives if d.driver is not None]

    def _fresh(self, link: Link) -> bool:
        """Whether a speaker link is a cable of its own, not the car's."""
        return not (isinstance(link, SpeakerLink) and link.factory_wire and over_loom_from(self.design, link) is None)

    def _radio_out(self) -> bool:
        radio = self.design.vehicle.radio
        acts = {i.id for i in interventions_of(self.design)}
        moved = radio.id in acts
        own = {c.id for c in radio.channels}
        tapped = any(
            t.place is TapPlace.PLUG and any(n in own for n in t.from_ids) for t in self.design.links_of(TapLink)
        )
        lines = any(k.from_id == radio.id for k in self.design.links_of(LineLink))
        fed = any(True for _ in self.design.links_of(FeedLink)) or any(
            f.id == k.from_id for k in self.design.links_of(RemoteLink) for f in self.design.vehicle.feeds
        )
        return moved or tapped or lines or fed or any(self.design.parts_of(HeadUnit))

    # -- the steps, phase by phase -------------------------------------------------------------------------------

    def _on_the_table(self) -> None:
        subs = list(self.design.parts_of(Subwoofer))
        for box in self.design.parts_of(Box):
            if subs:
                words = f"{listed([s.name for s in subs])} into {box.name}, coils as planned; a cell moves the cone out"
                self.add(f"table-box-{box.id}", Phase.TABLE, words, "box")
        joints = self.results.joints
        if joints.joints and any(self.design.parts_of(HeadUnit)):
            self.add(
                "table-harness", Phase.TABLE, f"The new radio's leads: {count(len(joints.joints), 'joint')}", "harness"
            )
        if self.results.wire_rows:
            rows = count(len(self.results.wire_rows), "cable")
            self.add("cut-cables", Phase.TABLE, f"Cut and label {rows} by the wire list, both ends", "cut-cables")

    def _before(self) -> None:
        self.add("try-all", Phase.BEFORE, "Try everything the car does, every speaker, before it is touched", "try-all")
        if not self.design.links:
            return
        self.add("note", Phase.BEFORE, "Note clock, stations, radio code, seat and window memory", "note", ("try-all",))
        vehicle = self.design.vehicle
        cautions = ["Negative first; no sparks, batteries give off hydrogen"]
        wait = ""
        if vehicle.seat_airbags.value is not False:
            cautions.append("Wait the maker's time before any airbag plug is touched")
            wait = "; wait the maker's time"
        if vehicle.powertrain is not Powertrain.COMBUSTION and not vehicle.above_12_v:
            cautions.append("Orange cables are for qualified people only")
        where = vehicle.supply.batteries[0].position.point
        self.add(
            "battery-off",
            Phase.BATTERY,
            f"Negative terminal off and covered{wait}",
            "battery-off",
            ("note",),
            where,
            tuple(cautions),
        )

    def _off(
        self, name: str, what: str, kind: str, takes_off: str, where: Point | None, cautions: tuple[str, ...] = ()
    ) -> None:
        needs = ("battery-off", "try-all")
        self.taken.append(self.add(name, Phase.OFF, what, kind, needs, where, cautions, takes_off=takes_off))

    def _take_off(self) -> None:
        vehicle = self.design.vehicle
        if self.design.links and self._radio_out():
            self._off(
                "off-radio",
                f"{vehicle.radio.name} out of the dash",
                "off-radio",
                vehicle.radio.name,
                vehicle.radio.position.point,
            )
        swapped = {s.id for s, _ in self._swaps()}
        cabled = {k.to_id for k in self.design.links_of(SpeakerLink) if self._fresh(k)}
        tapped = {c for t in self.design.links_of(TapLink) if t.place is TapPlace.LEADS for c in t.from_ids}
        for speaker in vehicle.speakers:
            if speaker.id in swapped | cabled or (speaker.channel_id in tapped):
                door = speaker.place is SpeakerPlace.DOOR
                what = f"{speaker.name} {'panel' if door else 'trim'}"
                kind = "off-door" if door else "off-trim"
                kept = ("Airbag behind it: never the yellow plug",) if speaker.place is SpeakerPlace.PILLAR else ()
                self._off(f"off-{speaker.id}", f"{what} off", kind, what, speaker.position.point, kept)
        for side in self._sides():
            where = (0.5 * self.length_m, (-0.85 if side == "left" else 0.85) * self.half_m)
            self._off(f"off-sill-{side}", f"Sill trims, {side}", "off-sill", f"Sill trims, {side}", where)
        if self._in_the_rear():
            where = (0.82 * self.length_m, 0.0)
            self._off("off-rear", "Load space floor and side trim", "off-rear", "Load space trim", where)

    def _sides(self) -> list[str]:
        """The sills some run lies under."""
        found = set()
        for run in self.results.runs.values():
            points = run.points or ()
            for (ax, ay), (bx, by) in zip(points, points[1:], strict=False):
                aside = (ay + by) / 2
                if abs(bx - ax) > LONG_M and abs(aside) > ASIDE * self.half_m:
                    found.add("left" if aside < 0 else "right")
        return sorted(found)

    def _in_the_rear(self) -> bool:
        """Whether something is fixed or grounded behind the seats."""
        ends = [run.points[-1] for run in self.results.runs.values() if run.points]
        ends += [run.points[0] for run in self.results.runs.values() if run.points]
        return any(x > REAR * self.length_m for x, _ in ends)

    def _passages(self) -> list[Passage]:
        """The ways through the bulkhead some power run takes."""
        used = {crossing.passage_id for crossing in self.results.bulkhead}
        return [p for p in self.design.vehicle.passages if p.id in used]

    def _lay(self) -> None:
        for passage in self._passages():
            where, off = passage.position.point, ("battery-off", *(n for n in self.taken if n.startswith("off-sill")))
            if passage.needs_drilling.value is not False:
                look = self.add(
                    f"look-{passage.id}",
                    Phase.LAY,
                    f"Look behind {passage.name}: fuel, brake lines, wiring",
                    "look-behind",
                    off,
                    where,
                )
                self.add(
                    f"drill-{passage.id}",
                    Phase.LAY,
                    f"Drill {passage.name}, prime the edge, grommet",
                    "drill",
                    (look,),
                    where,
                    ("Look behind before drilling",),
                    one_shot=True,
                )
            else:
                self.add(
                    f"through-{passage.id}",
                    Phase.LAY,
                    f"Through {passage.name}, with its grommet",
                    "passage",
                    off,
                    where,
                )
        holes = tuple(n for n in self.steps if n.startswith(("drill-", "through-")))
        sills = tuple(n for n in self.taken)
        for link in self.design.links:
            run = self.results.runs.get(link.id)
            if run is None or isinstance(link, GroundLink) or not self._fresh(link):
                continue
            size = next((row.size for row in self.results.wire_rows if row.link_id == link.id), "")
            length = f", {self.results.say(run.length.value, 'm')}" if run.length.value else ""
            what = f"{size or 'Cable'} from {run.start_name} to {run.end_name}{length}"
            kind = "lay-thick" if isinstance(link, PowerLink) else "lay"
            middle = run.points[len(run.points) // 2] if run.points else None
            needs = ("cut-cables", *sills, *(holes if isinstance(link, PowerLink) else ()))
            kept = ("Clear of pedals, seat rails, hinges and airbags",) if (run.length.value or 0) > LONG_M else ()
            self.add(f"lay-{link.id}", Phase.LAY, what, kind, needs, middle, kept)

    def _fix(self) -> None:
        grounded = {k.to_id for k in self.design.links_of(GroundLink)}
        grounded |= {k.ground_point_id for k in self.design.links_of(FeedLink) if k.ground_point_id}
        off = tuple(self.taken)
        for point in self.design.vehicle.ground_points:
            if point.id not in grounded:
                continue
            bores = point.kind.value in (GroundKind.STUD, GroundKind.SELF_TAPPING, None)
            needs: tuple[str, ...] = ("battery-off", *off)
            if bores:
                look = self.add(
                    f"look-{point.id}",
                    Phase.FIT,
                    f"Look behind {point.name}: fuel, brake lines, wiring",
                    "look-behind",
                    needs,
                    point.position.point,
                )
                needs = (look,)
            what = f"{point.name}: {'drilled, ' if bores else ''}bare metal, star washer, sealed after"
            self.add(
                f"ground-{point.id}",
                Phase.FIT,
                what,
                "ground",
                needs,
                point.position.point,
                ("Look behind before drilling",) if bores else (),
                one_shot=bores,
            )
        kinds = (Amplifier, Converter, PoweredSubwoofer, DistributionBlock, StiffeningCapacitor, ChargingRelay,
                 VoltageConverter)  # fmt: skip
        for part in self.design.parts:
            if isinstance(part, kinds):
                where = part.position.point if part.position is not None else None
                laid = tuple(
                    f"lay-{k.id}" for k in self.design.links if part.id in (k.to_id, getattr(k, "from_id", ""))
                )
                heavy = (getattr(part, "mass_kg", None) or 0.0) >= HEAVY_KG
                self.add(
                    f"fix-{part.id}",
                    Phase.FIT,
                    f"Fix {part.name}",
                    "fix-part",
                    (*off, *laid),
                    where,
                    people=2 if heavy else 0,
                )
        for speaker, name in self._swaps():
            what = f"{name} into {speaker.name}; its terminals clear of metal"
            self.add(
                f"fix-{speaker.id}", Phase.FIT, what, "fix-speaker", (f"off-{speaker.id}",), speaker.position.point
            )
        for box in self.design.parts_of(Box):
            heavy = box.mass_kg is None or box.mass_kg >= HEAVY_KG
            where = box.position.point if box.position is not None else None
            kept = ("Bolt or strap it, never to belt points; child-seat anchors stay free",)
            needs = (f"table-box-{box.id}", *off, *(n for n in self.steps if n.startswith("lay-")))
            self.add(
                f"fix-{box.id}",
                Phase.FIT,
                f"{box.name} in its place, strapped or bolted",
                "fix-box",
                needs,
                where,
                kept,
                people=2 if heavy else 0,
            )

    def _join(self) -> None:
        joints = self.results.joints
        by_plug = any(t.method is Pickup.PLUG_ADAPTER for t in self.design.links_of(TapLink))
        spliced = any(t.method is Pickup.SPLICE for t in self.design.links_of(TapLink))
        where = self.design.vehicle.radio.position.point
        out = ("off-radio", "table-harness", *(n for n in self.steps if n.startswith("lay-")))
        if by_plug or any(self.design.parts_of(HeadUnit)):
            self.add("join-plug", Phase.JOIN, "Adapters and plugs behind the radio", "join-plug", out, where)
        cut = [j for j in joints.joints if j.cuts]
        if cut or spliced:
            wires = max(len(cut), 1)
            self.add(
                "join-wires",
                Phase.JOIN,
                f"{count(wires, 'joint')} at the car's own wires",
                "join-wires",
                out,
                where,
                one_shot=True,
                times=wires,
            )
        for part in self.design.parts:
            ties = [k for k in self.design.links if part.id in (k.to_id, getattr(k, "from_id", ""))]
            fixed = f"fix-{part.id}"
            if fixed in self.steps and ties and not isinstance(part, Box):
                grounds = tuple(f"ground-{k.to_id}" for k in ties if isinstance(k, GroundLink))
                needs = (
                    fixed,
                    *(f"lay-{k.id}" for k in ties),
                    *grounds,
                    *(f"fix-{b.id}" for b in self.design.parts_of(Box)),
                )
                what = f"Connect {part.name}: {listed(list(dict.fromkeys(_WORDS[k.kind] for k in ties)))}"
                spot = part.position.point if part.position is not None else None
                self.add(f"join-{part.id}", Phase.JOIN, what, "join-part", needs, spot)
        rooted = {b.id for b in self.design.vehicle.supply.batteries}
        if any(k.from_id in rooted for k in self.design.links_of(PowerLink)):
            joined = tuple(n for n, s in self.steps.items() if s.phase is Phase.JOIN)
            self.add(
                "join-post",
                Phase.JOIN,
                "Ring on the battery's positive post, the fuse out of its holder",
                "join-post",
                ("battery-off", *joined, *(n for n in self.steps if n.startswith("lay-"))),
                self.design.vehicle.supply.batteries[0].position.point,
                ("The main fuse stays out",),
            )

    def _power(self) -> None:
        done = tuple(n for n, s in self.steps.items() if s.phase in (Phase.FIT, Phase.JOIN))
        if not self.design.links:
            self.add("first-power", Phase.POWER, "Every speaker alone, fade and balance", "first-power", done)
            return
        self.add(
            "dead-checks",
            Phase.CHECK,
            "Continuity of every new wire, ohms of every output, no speaker lead to the body",
            "dead-checks",
            done,
        )
        post = self.design.vehicle.supply.batteries[0].position.point
        self.add(
            "battery-on", Phase.POWER, "Negative terminal on, last", "battery-on", ("dead-checks", "battery-off"), post
        )
        if any(self.design.links_of(PowerLink)):
            self.add(
                "main-fuse",
                Phase.POWER,
                "Main fuse in: everything is joined, polarity is checked",
                "main-fuse",
                ("battery-on", "dead-checks", "join-post"),
                post,
            )
        what = "Volts in every key state, every function, every speaker alone, fade and balance"
        self.add("first-power", Phase.POWER, what, "first-power", ("main-fuse", "battery-on"))
        if any(self.results.signals):
            self.add("gains", Phase.POWER, "Set gains and filters by Signal's procedure", "gains", ("first-power",))

    def _close(self) -> None:
        share = float(table("steps", "closing")["share"])
        tested = ("first-power", "gains")
        for name in reversed(self.taken):
            off = self.steps[name]
            self.add(
                f"back-{name.removeprefix('off-')}",
                Phase.CLOSE,
                f"{off.takes_off} back; everything counted in",
                off.kind,
                (name, *tested),
                off.where,
                share=share,
            )
        if "note" in self.steps:
            closed = tuple(n for n, s in self.steps.items() if s.phase is Phase.CLOSE)
            what = "Clock, stations, code and memories back in; everything the car did, tried again"
            self.add("settings-back", Phase.CLOSE, what, "settings-back", (*closed, *tested))


_WORDS = {
    "power": "power", "ground": "ground", "speaker": "speakers", "tap": "signal", "line": "RCA", "remote": "switch-on",
    "feed": "feed", "charge": "charge cable", "capacitor": "capacitor",
}  # fmt: skip
