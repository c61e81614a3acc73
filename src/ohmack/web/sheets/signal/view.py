"""Which way of the signal its sheet draws, and the others."""

from __future__ import annotations

from functools import cached_property
from math import floor, isinf

from ohmack.core.document.factory import Module, Radio
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.parts import HeadUnit
from ohmack.core.physics.gain_settings import GainSetting
from ohmack.core.signal.knobs import Knob, knob_of
from ohmack.core.signal.ladder import Stage
from ohmack.core.signal.levels import OutputSignal, SignalResult
from ohmack.core.signal.lines import LineResult
from ohmack.core.signal.procedure import GainStep, SchoolLevel, procedure, school_levels
from ohmack.core.signal.tones import tones_of
from ohmack.core.signal.ways import begins_at, played_anew
from ohmack.core.wording import amount, listed
from ohmack.web.page import Page


class SignalView:
    """The signal for its page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.signals = page.evaluation.results.signals

    @property
    def shown(self) -> SignalResult | None:
        """The way whose levels are drawn: the one that holds what is looked at, else the first."""
        looked_at = self.page.show
        return next((s for s in self.signals if looked_at and looked_at in _paths(s)), next(iter(self.signals), None))

    @property
    def faint(self) -> list[SignalResult]:
        """The other ways, drawn behind it."""
        return [signal for signal in self.signals if signal is not self.shown]

    def tapped(self, signal: SignalResult) -> Radio | Module:
        """What a way takes its signal from, where it takes it by a tap; else the radio."""
        return begins_at(self.page.design, signal.way)

    def radio_of(self, signal: SignalResult) -> HeadUnit | None:
        """The new radio a way takes its signal from by a tap; None where that is what was there."""
        now = self.page.evaluation.results.design  # without what comes later
        return played_anew(now, self.tapped(signal)) if signal.way.tap is not None else None

    def tapped_path(self, signal: SignalResult, field: str) -> str:
        """The path of a field of it."""
        source = self.tapped(signal)
        return f"{at_the(Radio) if isinstance(source, Radio) else at(source)}/{field}"

    @staticmethod
    def clips_first(signal: SignalResult) -> str:
        """Which stage behind the source clips first, in words; empty without a ladder."""
        first = signal.ladder.first_to_clip
        if first is None or first.room is None or first.room.value is None:
            return ""
        room_db = first.room.value
        if room_db > 0.05:
            return f"Behind the source the {first.name} clips first, {amount(room_db, 'db')} above the top volume."
        if room_db > -0.05:
            return f"Behind the source the {first.name} clips first, just at the top volume."
        to = first.clean_to.value if first.clean_to is not None else None
        step = f": from step {floor(to) + 1} on" if to is not None else ""
        return f"The {first.name} clips first, {amount(-room_db, 'db')} below the top volume{step}."

    def lines_of(self, signal: SignalResult) -> list[LineResult]:
        """The line of a way, where it goes into an amplifier."""
        return [line for line in self.page.evaluation.results.lines if line.line is signal.way.line]

    @staticmethod
    def clean_to(stage: Stage) -> str:
        """The last whole step a stage stays clean at, in words."""
        if stage.clean_to is None or stage.clean_to.value is None:
            return "–"
        return "the top" if isinf(stage.clean_to.value) else f"step {floor(stage.clean_to.value)}"

    def is_first(self, signal: SignalResult) -> bool:
        """Whether no way before it goes through the same converter: its gain is compared once."""
        return next((s for s in self.signals if s.converter is signal.converter), None) is signal

    @staticmethod
    def is_now(signal: SignalResult, setting: GainSetting) -> bool:
        """Whether a setting is the one the converter has."""
        gain = signal.figures["gain"].value
        return gain is not None and abs(gain - setting.gain_db) < 0.05

    @property
    def ways(self) -> list[tuple[str, str, bool]]:
        """(name, address, whether it is drawn) of every way."""
        found = []
        for signal in self.signals:
            link = signal.way.line or signal.way.tap
            if link is not None:
                found.append((signal.way.title, self.page.link_to(at(link)), signal is self.shown))
        return found

    @cached_property
    def steps(self) -> tuple[GainStep, ...]:
        """How the gains are set."""
        results = self.page.evaluation.results
        return procedure(results.design, results.signals, results.crossovers, results.balance)

    @staticmethod
    def window(step: GainStep) -> str:
        """What a meter may show, in words."""
        return "" if step.low_v is None or step.high_v is None else (
            f"{amount(step.low_v, 'v')} to {amount(step.high_v, 'v')}"
        )  # fmt: skip

    def tone(self, step: GainStep) -> str:
        """The tone of a step, in words."""
        known = {tone.name: tone.words for tone in tones_of(self.page.design, self.signals)}
        return known.get(step.tone, "tone")

    @staticmethod
    def school(one: SchoolLevel) -> str:
        """Where a school ends, in words."""
        name, apart = one.school.value.partition(":")[0], one.against_db
        more = f" ({amount(apart, 'db')} against the shop's)" if abs(apart) > 0.05 else ""
        return f"{name} ends at {amount(one.volts, 'v')}{more}"

    @staticmethod
    def knobs(signal: SignalResult) -> list[tuple[str, str]]:
        """The gain knobs of a signal way: what each sets in words, and the path of where one is kept."""
        found: dict[Knob, list[OutputSignal]] = {}
        for output in signal.outputs:
            found.setdefault(knob_of(output), []).append(output)
        rows = []
        for same in found.values():
            shown = next((one for one in same if one.load.link.sensitivity_kept_v is not None), same[0]).load
            channels = listed([str(one.load.link.channel) for one in same])
            name = shown.channel_name if len(same) == 1 else f"{shown.amplifier.name}, channels {channels}"
            rows.append((name, at(shown.link, lambda it: it.sensitivity_kept_v)))
        return rows

    @property
    def schools(self) -> list[tuple[str, tuple[SchoolLevel, ...]]]:
        """Where the schools end, output by output; left and right alike once."""
        found: dict[tuple[str, ...], tuple[list[str], tuple[SchoolLevel, ...]]] = {}
        for signal in self.signals:
            for output in signal.outputs:
                levels = school_levels(output, self.page.design.policy.gain_school)
                if levels:
                    key = tuple(f"{one.volts:.3f}" for one in levels)
                    found.setdefault(key, ([], levels))[0].append(output.load.channel_name)
        return [(listed(names), levels) for names, levels in found.values()]


def _paths(signal: SignalResult) -> set[str]:
    """The paths of everything that belongs to one way alone."""
    way = signal.way
    links = [link for link in (way.line, way.tap) if link is not None]
    return {at(link) for link in (*links, *(output.load.link for output in signal.outputs))}
