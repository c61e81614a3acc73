"""Every sheet of a plan nobody would draw answers: half wired, half surveyed, parts for another car."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from odd_plans import odd_plan
from ohmack.demo.jobs import demo_design
from ohmack.store.database import Database
from web.test_survey import Bench

HOME = Path(__file__).parents[2] / "src" / "ohmack" / "web" / "sheets"
SHEETS = sorted(path.parent.name for path in HOME.glob("*/sheet.py"))
MORE = int(os.environ.get("OHMACK_ODD", "0"))  # further plans, while somebody looks for what breaks


@pytest.mark.parametrize("seed", [8, 10, 21, 47, 59, 77, *range(200, 205), *range(1000, 1000 + MORE)])
def test_every_sheet_of_an_odd_plan_answers(seed: int, client: TestClient, database: Database) -> None:
    bench = Bench(client, database, odd_plan(seed))
    answers = {sheet: client.get(f"/jobs/{bench.job}/{sheet}") for sheet in SHEETS}
    assert {sheet: answer.status_code for sheet, answer in answers.items() if answer.status_code >= 500} == {}
    assert not [sheet for sheet, answer in answers.items() if "This plan cannot be judged" in answer.text]
    assert len(SHEETS) > 35


def test_the_sheets_of_a_whole_plan_are_no_fewer(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(0))
    assert {client.get(f"/jobs/{bench.job}/{sheet}").status_code for sheet in SHEETS} == {200}
