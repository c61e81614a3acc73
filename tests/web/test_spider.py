"""Every link of every page is followed; ids are unique, labels have their field, forms their address."""

from __future__ import annotations

import re
from html import unescape
from html.parser import HTMLParser
from urllib.parse import urldefrag
from zlib import crc32

import pytest
from starlette.testclient import TestClient

from web.test_pages import BASE

WORKINGS = 16  # every sixteenth working is opened: they are of one template, and a test of its own asks for each
WEEKS = 3  # there is always a week after
SHOWN = 9  # every ninth thing looked at on a sheet: editors are of one template too
LISTS = ("/?page=", "/customers?page=", "/customers/", "/audit?", "/search?")  # pages of one template
FEW = 3
CRAWLED = ("J-0405", "J-0407")  # amplifier behind a factory amplifier, many facts; questionnaire


class Anatomy(HTMLParser):
    """What a page is made of."""

    def __init__(self) -> None:
        super().__init__()
        self.ids: list[str] = []
        self.links: list[str] = []
        self.label_for: list[str] = []
        self.described_by: list[str] = []
        self.forms: list[str] = []
        self.fields: list[tuple[str, dict[str, str | None]]] = []
        self.headings: list[str] = []
        self.inside_label = 0

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        found = dict(attrs)
        if found.get("id"):
            self.ids.append(found["id"] or "")
        if tag == "a" and found.get("href"):
            self.links.append(unescape(found["href"] or ""))
        if tag == "label" and found.get("for"):
            self.label_for.append(found["for"] or "")
        if found.get("aria-describedby"):
            self.described_by.append(found["aria-describedby"] or "")
        if tag == "form" and found.get("method") == "post":
            self.forms.append(found.get("action") or "")
        self.inside_label += tag == "label"
        if tag in ("input", "select", "textarea") and found.get("type") != "hidden":
            self.fields.append((tag, found | {"inside label": "yes" if self.inside_label else None}))
        if tag in ("h1", "h2", "h3"):
            self.headings.append(tag)

    def handle_endtag(self, tag: str) -> None:
        self.inside_label -= tag == "label"


@pytest.mark.parametrize("job", CRAWLED)
def test_every_link_of_the_demo_shop(client: TestClient, job: str) -> None:
    """Job by job, so that they are followed side by side; the shop's own pages with each."""
    waiting, seen = ["/"], set[str]()
    routes = {re.sub(r"\{\w+(:\w+)?\}", "[^/]+", getattr(r, "path", "")) for r in client.app.routes} | _paths(client)  # type: ignore[attr-defined]
    while waiting:
        address = urldefrag(waiting.pop()).url.removeprefix(BASE)
        if (
            not address
            or address in seen
            or not address.startswith("/")
            or address.endswith(".pdf")  # each paper is made once elsewhere
            or ("show=figure" in address and crc32(address.encode()) % WORKINGS)
            or ("show=" in address and "show=figure" not in address and crc32(address.encode()) % SHOWN)
            or ("week=" in address and sum("week=" in other for other in seen) >= WEEKS)
            or ((m := re.match(r"/jobs/(J-\d+)", address)) and m[1] != job)
            or any(sum(one in other for other in seen) >= FEW for one in LISTS if one in address)
        ):
            continue
        seen.add(address)
        answer = client.get(address)
        assert answer.status_code == 200, address
        if not answer.headers["content-type"].startswith("text/html"):
            continue
        page = Anatomy()
        page.feed(answer.text)
        assert len(page.ids) == len(set(page.ids)), (address, sorted(i for i in page.ids if page.ids.count(i) > 1)[:4])
        assert set(page.label_for) <= set(page.ids), (address, set(page.label_for) - set(page.ids))
        assert set(page.described_by) <= set(page.ids), address
        assert page.headings[:1] == ["h1"], (address, page.headings[:3])
        for tag, field in page.fields:
            named = field.get("aria-label") or field.get("id") in page.label_for or field["inside label"]
            assert named, (address, tag, field)
            assert field.get("name"), (address, tag, field)
        for form in page.forms:
            assert any(re.fullmatch(pattern, form) for pattern in routes), (address, form)
        waiting += page.links
    print(len(seen))
    assert len(seen) > 100, len(seen)


def _paths(client: TestClient) -> set[str]:
    """Route patterns of included routers, whatever the framework wraps them in."""
    found: set[str] = set()
    stack = list(client.app.routes)  # type: ignore[attr-defined]
    while stack:
        route = stack.pop()
        stack += list(
            getattr(route, "routes", None) or getattr(getattr(route, "original_router", None), "routes", []) or []
        )
        if getattr(route, "path", None):
            found.add(re.sub(r"\{\w+(:\w+)?\}", "[^/]+", route.path))
    return found
