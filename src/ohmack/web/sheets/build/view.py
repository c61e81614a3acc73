"""What the build sheet prints besides the lists."""

from __future__ import annotations

from ohmack.core.document.factory import Module, Radio
from ohmack.core.document.parts import HeadUnit
from ohmack.core.loads.drivers import Drive, net_of
from ohmack.core.signal.crossovers import filters_by_device
from ohmack.core.signal.levels import SignalResult
from ohmack.core.signal.ways import InputsJoined, inputs_joined, step_of, volume_of
from ohmack.web.sheets.joints.view import JointsView


class BuildView(JointsView):
    """The build sheet for its page."""

    def driven_by(self, drive: Drive) -> str:
        """What drives a speaker place under this plan, in words."""
        unit = next(self.page.design.parts_of(HeadUnit), None)
        net = net_of(self.page.design, drive.speaker.id)
        through = f", through {net.name}" if net is not None else ""
        if drive.by_amplifier:
            return f"the new amplifier{through}"
        if drive.channel is None or drive.source is None:
            return "nothing yet"
        source = unit.name if unit is not None and drive.by_new_radio else drive.source.name
        return f"{drive.channel.name}, {source}{through}"

    @property
    def sources(self) -> list[SignalResult]:
        """One signal way of every source: what is set at the radio is set once."""
        found = {s.figures["source"].id: s for s in reversed(self.page.evaluation.results.signals)}
        return list(reversed(found.values()))

    def source_of(self, signal: SignalResult) -> Radio | Module | HeadUnit:
        """What is turned up for a way."""
        return volume_of(self.page.evaluation.results.design, signal.way)

    def step_of(self, signal: SignalResult) -> str | None:
        """Its last clean step; None where nobody knows it."""
        return step_of(self.source_of(signal)) or None

    @property
    def converters(self) -> list[SignalResult]:
        """One signal way of every converter: it has one gain, whatever it feeds."""
        ways = self.page.evaluation.results.signals
        found = {s.converter.id: s for s in reversed(ways) if s.converter is not None}
        return list(reversed(found.values()))

    @property
    def filters_before(self) -> list[tuple[str, str]]:
        """What filters before the amplifiers, and how it is set for what, in words: a tweeter may live by it."""
        results = self.page.evaluation.results
        amplifiers = {entry.part.id for entry in results.crossovers}
        return [(name, said) for own, name, said in filters_by_device(results.crossovers) if own not in amplifiers]

    @property
    def joined(self) -> list[InputsJoined]:
        """The amplifiers whose inputs are joined."""
        return list(inputs_joined(self.page.evaluation.results.design))

    def filters(self, scope: str) -> str:
        """How the filters of an output are set, after what goes before; empty where it has none."""
        found = self.page.evaluation.results.crossover_of(scope)
        return f"; {found.words}" if found is not None and found.words else ""
