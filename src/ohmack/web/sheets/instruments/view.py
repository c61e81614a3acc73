"""The instruments for their page."""

from __future__ import annotations

from ohmack.core.lazy import lazy
from ohmack.core.prove.car import Setting
from ohmack.core.prove.checks import Check
from ohmack.core.prove.free_probing import READS as READS_FREELY
from ohmack.core.prove.free_probing import Spotted, free_check, free_id, points_of
from ohmack.core.prove.judged import Judged, judge
from ohmack.core.prove.probes import Probe, Quantity
from ohmack.store.instruments import InstrumentKind, InstrumentRecord
from ohmack.web.instrument_kinds import READS
from ohmack.web.sheets.prove.view import ProveView

USUAL = Probe(Quantity.DC_V, "", "", Setting.ON)
WORDS = {Quantity.DC_V: "DC volts", Quantity.DROP_MV: "DC millivolts", Quantity.OHM: "ohms, no fuse in"}


class InstrumentsView(ProveView):
    """Where each instrument is."""

    @property
    def now(self) -> Judged | None:
        """The check that is shown: two points chosen freely, or what the proof asks next."""
        free = self.free
        if free is None:
            return super().now
        results = self.page.evaluation.results
        return judge(results, free, results.windows, [], 0)

    @property
    def free(self) -> Check | None:
        """Two points chosen freely; None while none are."""
        return free_check(self.page.evaluation.results, self.page.show.removeprefix("check:"))

    @lazy
    def points(self) -> list[Spotted]:
        """Every point a probe may sit at."""
        return list(points_of(self.page.evaluation.results))

    @property
    def choices(self) -> list[tuple[str, str]]:
        """(point, its name) of each."""
        return [(one.point, one.spot.name) for one in self.points]

    @property
    def quantities(self) -> list[tuple[str, str]]:
        """(name, words) of what two probes read."""
        return [(q.name, WORDS[q]) for q in READS_FREELY]

    @property
    def settings(self) -> list[tuple[str, str]]:
        """(name, words) of what the car may be doing."""
        vehicle = self.page.design.vehicle
        return [(s.name, vehicle.as_said(s.value)) for s in Setting if vehicle.starts or s is not Setting.CRANKING]

    def chosen_of(self, name: str) -> str:
        """What a field of the probes' form holds: as typed, as chosen, or the usual."""
        free = self.free
        probe = free.probe if free is not None else USUAL
        held = {
            "plus": probe.plus,
            "minus": probe.minus,
            "quantity": probe.quantity.name,
            "setting": probe.setting.name,
        }
        return self.page.typed("probes", name, held[name])

    def moved_to(self, point: str) -> str:
        """Where a press on a point leads: the black probe's place becomes the red one's, the black one goes there."""
        free = self.free
        probe = free.probe if free is not None else USUAL
        plus = probe.minus or (self.points[0].point if self.points else "")
        return self.page.link_to(f"check:{free_id(probe.quantity, probe.setting, plus, point)}")

    @property
    def rows(self) -> list[tuple[InstrumentKind, InstrumentRecord | None, str]]:
        """(kind, what is known of it, what it reads) of each."""
        known: dict[InstrumentKind, InstrumentRecord] = self.page.extra.get("instruments", {})
        return [(kind, known.get(kind), READS[kind]) for kind in InstrumentKind]
