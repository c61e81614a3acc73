"""The real server with the demo data, and Debian's Chromium."""

from __future__ import annotations

import shutil
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from judging import judged_once
from ohmack.launch.mariadb import free_port
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.sessions import From, SessionStore
from ohmack.web.app import create_app
from ohmack.web.serving import server_for
from ohmack.web.settings import Settings

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
LAID_OVER = (Path(__file__).parent / "laid_over.js").read_text()
expect.set_options(timeout=30_000)  # a state is waited for, however slow the machine
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
         "--disable-component-update", "--disable-sync"]  # fmt: skip


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    return {"executable_path": shutil.which("chromium-headless-shell"), "args": QUIET}


@pytest.fixture(scope="session")
def browser_context_args(base_url: str) -> dict[str, Any]:
    return {"base_url": base_url, "viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce"}


@contextmanager
def serving(settings: DatabaseSettings) -> Iterator[str]:
    """The application over real HTTP on a database."""
    port = free_port()
    made = Settings(
        port=port, database_host=settings.host, database_port=settings.port, database_user=settings.user,
        database_password=settings.password, summaries=False,
    )  # fmt: skip
    server = server_for(create_app(made), "127.0.0.1", port, log_level="CRITICAL")
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    deadline = time.monotonic() + 20
    while not server.started and time.monotonic() < deadline:
        time.sleep(0.05)
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(10)


@pytest.fixture(scope="session")
def base_url(settings: DatabaseSettings, database: Database) -> Iterator[str]:
    with judged_once(), serving(settings) as address:
        yield address


@pytest.fixture(scope="session")
def session_token(database: Database) -> str:
    """Somebody is signed in already: what a browser's cookie holds."""
    return SessionStore(database).begin(BUILT_IN, 12, From())


@pytest.fixture(autouse=True)
def signed_in(context: BrowserContext, base_url: str, session_token: str) -> None:
    context.add_cookies([{"name": "ohmack", "value": session_token, "url": base_url}])


@pytest.fixture(autouse=True)
def watchful(page: Page) -> Iterator[None]:
    """No script error, nothing the content policy refuses, no request beyond loopback."""
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on(
        "console",
        lambda m: (
            troubles.append(m.text)
            if m.type == "error"
            and "status of" not in m.text
            and "INTERNET_DISCONNECTED" not in m.text
            and not m.text.startswith("htmx:")
            else None
        ),
    )
    page.on(
        "request",
        lambda r: troubles.append(r.url) if not r.url.startswith(("http://127.0.0.1:", "data:", "blob:")) else None,
    )
    yield
    assert not troubles


def axe_findings(page: Page, only: str = "") -> list[str]:
    """What axe-core finds against WCAG 2.2 A and AA, and tables whose columns say nothing; or one rule's findings
    only.
    """
    page.evaluate(AXE)
    what = {"resultTypes": ["violations"]} | (
        {"runOnly": {"type": "rule", "values": [only]}}
        if only
        else {
            "runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"],
            "rules": {"target-size": {"enabled": True}, "empty-table-header": {"enabled": True}},
        }
    )
    result = page.evaluate("async (what) => (await axe.run(document, what)).violations", what)
    return [f"{v['id']}: {n['target']} {n.get('failureSummary', '')[:160]}" for v in result for n in v["nodes"]]


def assert_accessible(page: Page, view: str, by_night: bool = False) -> None:
    """No axe finding on one visit, nothing over anything else, nothing wider than a phone; by night no poor contrast,
    where that is asked: the main views have every colour the others have.
    """
    page.goto(view)
    settled(page)
    assert axe_findings(page) == [], view
    if by_night:
        page.evaluate("document.documentElement.dataset.theme = 'dark'")
        assert axe_findings(page, "color-contrast") == [], view
    assert page.evaluate(LAID_OVER) == [], view
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390, view
    assert page.evaluate(LAID_OVER) == [], view
    page.set_viewport_size({"width": 1280, "height": 800})


def settled(page: Page) -> None:
    """Every answer that was asked for is there and in its place."""
    page.wait_for_load_state()
    expect(page.locator(".htmx-request, .htmx-swapping, .htmx-settling")).to_have_count(0)
