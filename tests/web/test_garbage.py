"""Whatever a form sends, the answer is a page or a sentence, never a failure, and a refused form changes nothing."""

from __future__ import annotations

import random

import pytest
from starlette.testclient import TestClient

from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings
from web.fuzz import Fuzz, application
from web.test_pages import HX
from web.test_survey import Bench

ROUTES = {
    "functions": (),
    "act": ("thing", "act"),
    "keep-alive": ("thing", "measure", "back"),
    "strategy": ("strategy",),
    "arrivals": ("stands",),
    "weights": ("sound", "functions", "reversible", "cost", "time", "robust", "usual"),
    "answer": ("question", "answer", "back", "who"),
    "take-verdict": ("who",),
    "modules": (),
    "join": ("kind", "from_id", "to_id"),
    "variant": ("name", "tier"),
    "tell": ("question",),
    "volume-reading": ("step", "tone_hz", "voltage_v", "source_level", "rows"),
    "add": ("what",),
    "new-places": ("path", "what"),
    "choose": ("path", "value"),
    "edit": ("path", "value"),
    "remove": ("path",),
    "move": ("path", "at", "nudge"),
    "parts": ("catalogue_id", "swap", "instead"),
    "connector": ("name", "rows", "columns", "keyway", "numbered", "gender"),
    "pin": ("connector", "cavity", "off_v", "accessory_v", "lights_v", "body_ohm"),
    "reach": ("channel", "speaker"),
    "hunt": ("connector", "loose", "names", "bundles", "speaker", "grounds", "cavity-roof", "end"),
    "hunt-fault": ("fault", "about", "other"),
    "lead-end": ("unit", "use", "source"),
    "pin-grid": ("connector", "basis"),
    "pairs": ("source", "place-0", "band-0", "speaker-0", "reads-0"),
    "box-take": ("box", "words"),
    "spread": ("amplifier", "words"),
    "split-coils": ("output", "words"),
    "delays": (),
    "less-loss": ("cure",),
    "drop-reading": ("consumer", "section", "voltage_v", "current_a"),
    "filters": ("file",),
    "response-columns": ("name", "where", "taken", "step", "file"),
    "recordings": ("played", "name", "gate", "correction", "step", "file"),
    "flatten": ("response", "from", "to", "bands", "boost", "output"),
    "raise": ("thing", "rise", "nudge"),
    "knob": ("path", "value"),
    "lead": ("output", "a", "b", "act", "driver"),
    "speaker-sets": ("set-tweeter", "set-centre"),
    "over": ("other", "part"),
    "hunt-reading": ("kind", "wire", "value", "outcome", "speaker"),
    "hunt-withdraw": ("reading",),
    "hunt-result": (),
    "pin-map": ("connector", "file"),
    "way": ("link", "action"),
    "fact": ("path", "value", "basis", "low", "high"),
}
WORDS = [
    "",
    " ",
    "yes",
    "radio",
    "factory-amp",
    "display",
    "replaced",
    "bypassed",
    "taken out",
    "interface",
    "-1",
    "1e308",
    "nan",
    "∞",
    "0",
    "3",
    "1,5",
    "vehicle",
    "vehicle/radio",
    "vehicle/modules",
    "vehicle/functions",
    "interventions/radio/act",
    "parts/amp/phase",
    "parts/ghost/price",
    "../..",
    "<b>x</b>",
    "' OR 1=1 --",
    "\u202e",
    "🚗",
    "x" * 500,
    "new radio alone",
    "digital or optical ring",
    "optical ring",
    "function",
    "roof",
    "c1",
    "w1",
    "r1",
    "resistance",
    "pop test",
    "cone moves out",
    "spk-fl",
    "ch-fl",
    "top",
    "along the rows",
    "plug",
]


@pytest.mark.parametrize("route", list(ROUTES))
def test_no_form_fails(client: TestClient, database: Database, route: str) -> None:
    bench = Bench(client, database, demo_design(2))
    dice = random.Random(route)
    for _ in range(12):
        record = bench.store.load(BUILT_IN, bench.job)
        fields = {name: dice.choice(WORDS) for name in ROUTES[route]}
        data = {
            "version": str(record.version),
            "base": str(record.number),
            "stage": dice.choice(["plan", "survey", "functions", "harness", "joints", "finder", "nowhere"]),
            "show": dice.choice(WORDS),
        } | fields
        answer = client.post(f"/jobs/{bench.job}/{route}", data=data, headers=dice.choice([{}, HX]))
        assert answer.status_code in (200, 303, 404, 422), (route, fields, answer.status_code)
        after = bench.store.load(BUILT_IN, bench.job)
        if answer.status_code in (404, 422):
            assert after.design == record.design, (route, fields)
            assert "<b>x</b>" not in answer.text
    assert bench.page("plan")


def test_no_route_ends_in_a_server_error(settings: DatabaseSettings, database: Database) -> None:
    """A short draw of `tests/web/fuzz.py`, which runs as long as one likes."""
    with application(settings) as client:
        fuzz = Fuzz(client, database, 7)
        answers = [fuzz.one() for _ in range(250)]
    assert not [a for a in answers if a[1] >= 500]
    assert len({route for route, _ in answers}) > 40
    assert sum(status in (200, 303) for _, status in answers) > 20
