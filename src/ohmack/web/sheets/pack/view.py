"""The job pack for its page: what is in it, what is left open, who signed."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.handover import Signature, SoakReading
from ohmack.core.handover.leaflet import leaflet
from ohmack.core.handover.left_open import Kind, LeftOpen
from ohmack.core.handover.settings import Setting
from ohmack.core.handover.soak import SoakJudged, said
from ohmack.core.signal.procedure import procedure
from ohmack.core.wording import amount, file_size
from ohmack.drawing.signature import draw_signature
from ohmack.store.packs import PackRecord
from ohmack.web.page import Page

MOST_DRAWN = 60_000  # letters of a hand; 3,000 points have about 24,000


class PackView:
    """What the pack holds."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results
        self.state = self.results.hand_over
        self.pack: PackRecord | None = page.extra.get("pack")

    @property
    def groups(self) -> list[tuple[str, list[Setting]]]:
        """The settings, group by group."""
        found: dict[str, list[Setting]] = {}
        for setting in self.results.settings:
            found.setdefault(setting.group, []).append(setting)
        return list(found.items())

    @property
    def open_groups(self) -> list[tuple[Kind, list[LeftOpen]]]:
        """What is left open, kind by kind."""
        found: dict[Kind, list[LeftOpen]] = {}
        for point in self.results.left_open:
            found.setdefault(point.kind, []).append(point)
        return list(found.items())

    @property
    def tuning(self) -> list[str]:
        """How every gain was set, step by step, and what the responses say."""
        steps = []
        results = self.results
        for step in procedure(self.page.design, results.signals, results.crossovers, results.balance):
            figure = step.shows
            shows = f" {amount(figure.value, figure.unit)}" if figure is not None and figure.value is not None else ""
            steps.append(f"{step.words}{shows}{f' (tone {step.tone})' if step.tone else ''}")
        responses = self.page.design.vehicle.responses
        steps += [f"Response “{r.name}”, {r.taken.value}, {r.measured_at.value}" for r in responses]
        return steps

    @property
    def care(self) -> tuple[str, ...]:
        """What the customer was told."""
        told = leaflet(self.results)
        return (*told.care, *told.leave_alone)

    @staticmethod
    def tried(judged: SoakJudged, reading: SoakReading) -> str:
        """One try of the soak in words."""
        return said(judged.check, reading)

    @property
    def waits(self) -> bool:
        """Whether a pack is being made."""
        return self.pack is not None and self.pack.making

    @property
    def stale(self) -> bool:
        """Whether the pack there is holds an earlier revision."""
        return self.pack is not None and self.pack.number != self.page.record.number

    @property
    def size(self) -> str:
        """How large the pack is."""
        return file_size(self.pack.bytes) if self.pack is not None else ""

    @property
    def drawn(self) -> str:
        """The hand of a signature that was refused, as it was sent; a drawing that is none is drawn anew."""
        typed = self.page.typed("signature", "drawn")
        return typed if len(typed) <= MOST_DRAWN else ""

    @staticmethod
    def hand(signature: Signature) -> Markup:
        """The drawn hand; empty where the name was typed."""
        return draw_signature(signature)

    @staticmethod
    def sign(setting: Setting) -> str:
        """How a setting stands, as a sign."""
        return "" if setting.stands is None else "✓" if setting.stands else "!"
