"""A sheet is declared in its own folder and found there: the track, the tabs, the titles and the addresses follow."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ohmack.core.figures.finding import STAGES
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.web import sheets as package
from ohmack.web.render import ENVIRONMENT
from ohmack.web.settings import Settings
from ohmack.web.sheet import sheets, stages, tabs
from signing_in import signed_in

CONVERTER = next(n for n, job in enumerate(demo_jobs()) if job.title == "Bass at the converter's limit")
OF_AN_ENGINE = re.compile(r".{20}(?:ngine (?:off|running|on\b|idl)|[Aa]t idle|\d turns|ost, cranking).{20}")
BASE = "http://127.0.0.1:8417"
FOLDERS = sorted(p.parent.name for p in Path(package.__path__[0]).glob("*/page.html"))


@pytest.fixture(scope="module")
def client(settings: DatabaseSettings, database: Database) -> Iterator[TestClient]:
    made = Settings(
        database_host=settings.host,
        database_port=settings.port,
        database_user=settings.user,
        database_password=settings.password,
        summaries=False,
    )
    with signed_in(made, BASE) as opened:
        yield opened


def test_every_folder_is_a_sheet_and_every_sheet_a_folder() -> None:
    assert sorted(sheets()) == FOLDERS
    assert [s.key for s in stages()] == list(STAGES)
    assert {s.home for s in sheets().values()} <= {"", *(s.key for s in stages())}
    assert next(iter(tabs("survey"))) == "survey"
    assert list(tabs("plan"))[:2] == ["plan", "find"]
    orders = [s.order for s in sheets().values()]
    assert orders == sorted(set(orders))


@pytest.mark.parametrize("key", FOLDERS)
def test_a_sheet_shows_its_sentence_and_its_picture(client: TestClient, database: Database, key: str) -> None:
    """On a car with everything, on one with nothing planned, and on an electric one, of which no engine is said."""
    for number in (0, 2, CONVERTER):
        job = DesignStore(database).open_job(BUILT_IN, "Sheets", "", "Sheets", demo_design(number))
        answer = client.get(f"/jobs/{job}/{key}")
        assert answer.status_code == 200
        assert f"<title>{sheets()[key].title} · {job} · Ohmack</title>" in answer.text
        assert "<h1>" in answer.text
        if sheets()[key].built and key not in ("build", "fit", "order"):
            assert answer.text.count("<svg") > 0, key
        if number:
            assert not OF_AN_ENGINE.findall(answer.text)
    assert client.get(f"/jobs/{job}/no-such-sheet").status_code == 404


def test_what_is_sent_keeps_words_apart_and_drops_the_layout() -> None:
    """Line breaks of a template are a space between words and inline marks, and nothing at the edge of a block."""
    template = ENVIRONMENT.from_string(
        "<td>\n  lost in\n  {{ wire }}\n  {% if hot %}\n    when hot\n  {% endif %}\n  <b>now</b>\n</td>\n"
        "<td>\n  2\n</td>"
    )
    sent = template.render(wire="4 AWG", hot=True)
    assert " ".join(sent.split()) == "<td>lost in 4 AWG when hot <b>now</b></td><td>2</td>"
