"""A car with an amplifier somebody else fitted, by plain forms; and that what a finding asks for opens where it can be
entered.
"""

from __future__ import annotations

import re
from contextlib import suppress
from html import unescape

import pytest
from pydantic import BaseModel
from starlette.testclient import TestClient

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.paths import get
from ohmack.core.errors import BadDocument
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.jobs import demo_design
from ohmack.store.database import Database
from web.test_survey import Bench, car

AMPLIFIER = {
    "kind": "amplifier", "name": "Old mono 800", "ratings": "400 W @ 4 ohm, 800 at 2", "lowest_load_ohm": "2",
    "fuses_a": "2 x 40", "sensitivity_low_v": "0.2", "sensitivity_high_v": "6", "terminal_area_max_mm2": "25",
    "channel_count": "1", "further_count": "0", "idle_current_a": "0.8", "remote_current_a": "0.05",
    "basis": "documented", "amplifier_class": "D", "regulated": "yes", "bass_knob": "no",
}  # fmt: skip
DRIVER = {"kind": "subwoofer", "name": "Old twelve", "coils": "D4", "power_rms_w": "700", "basis": "documented"}
BOX = {"kind": "box", "name": "Old box", "net_volume_l": "30", "mass_kg": "18", "length_m": "0.4", "width_m": "0.5",
       "height_m": "0.36", "openings": "1", "box_type": "closed", "basis": "documented"}  # fmt: skip


def titles(bench: Bench) -> list[str]:
    return [f.title for f in evaluate(bench.design).findings if f.severity.value == "stop"]


def test_an_amplifier_somebody_else_fitted(client: TestClient, database: Database) -> None:
    """Typed in as it is, its cables are asked for; too thin ones come out, and only what is new is bought and done."""
    bench = Bench(client, database, car())
    for part in (AMPLIFIER, DRIVER, BOX):
        assert bench.post("parts/new", stage="plan", in_car="yes", **part).status_code == 303
    converter = re.search(r'<option value="(\d+)">\s*Sprig LC2 active', bench.page("plan"))
    assert converter is not None
    assert bench.post("parts", stage="plan", catalogue_id=converter[1], in_car="yes").status_code == 303
    assert all(thing.in_car for thing in (*bench.design.parts, *bench.design.links))
    assert "lies in the car" in bench.page("plan")
    assert "Load not known" in bench.page("loads")
    assert "as it lies" in bench.page("build")
    asked = next(line for line in titles(bench) if "cable from Battery" in line)
    assert asked == "Not known: size of the cable from Battery to Old mono 800, which lies in the car"
    page = bench.page("plan", "links/power-amp/wire/size")
    assert 'data-asked="e-f-links-power-amp-wire-size"' in page
    for path, value in (
        ("links/power-amp/wire/size", "8 AWG"), ("links/ground-amp/wire/size", "8 AWG"),
        ("links/power-amp/fuse/rating_a", "100"), ("links/speaker-sub/wire/size", "14 AWG"),
        ("links/feed-converter/wire/size", "16 AWG"),
    ):  # fmt: skip
        assert bench.post("edit", stage="plan", path=path, value=value).status_code == 303
    key = evaluate(bench.design).results.loads[0].options[0].key
    assert bench.post("choose", stage="loads", path="links/speaker-sub/wiring", value=key).status_code == 303
    assert [line for line in titles(bench) if line.startswith("100 A fuse on 8 AWG")]
    assert bench.post("replace-cable", stage="supply", path="links/speaker-none").status_code in (404, 422)
    assert bench.post("replace-cable", stage="supply", path="links/power-amp").status_code == 303
    again = bench.post("replace-cable", stage="supply", path="links/power-amp")
    assert again.status_code == 422
    assert "does not lie in the car" in again.text
    steps = bench.page("steps")
    assert "Old cable from Battery to Old mono 800 out" in unescape(steps)
    assert "Fix Old mono 800" not in steps
    order = evaluate(bench.design).results.order
    assert [row.what for row in order if row.group in ("Parts", "Wire")] == ["4 AWG, red"]


@pytest.mark.parametrize("number", [0, 4, 12, 15, 27])
def test_what_a_finding_asks_for_opens_with_its_entry(number: int, client: TestClient, database: Database) -> None:
    """Each value of a part's papers that may be empty, forgotten: the link of what is said then leads to its field."""
    design = demo_design(number)
    for part in design.parts:
        for name, value in part:
            known = isinstance(value, (int, float)) and not isinstance(value, bool)
            if known and type(part).model_fields[name].default is None:
                with suppress(BadDocument):  # two that go together
                    design = apply_edits(design, [Edit(path=f"parts/{part.id}/{name}", value=None)])
    bench = Bench(client, database, design)
    page = bench.page("plan")
    links = set(re.findall(r'href="[^"]*/(plan|supply|signal|loads|survey|fit)\?show=([^"]+)"', page))
    fields = 0
    for stage, path in sorted((stage, unescape(path)) for stage, path in links):
        if path.startswith("figure:") or "/" not in path:
            continue
        shown, held = bench.page(stage, path), get(design, path)
        assert 'id="editor"' in shown, (stage, path)
        if not isinstance(held, BaseModel):
            assert f'data-asked="e-f-{re.sub("[/_]", "-", path)}"' in shown, (stage, path)
            fields += 1
    assert fields
