"""Hostile requests over every route of the application: forms, addresses, files and pictures. None may end in a
server error.

python tests/web/fuzz.py COUNT SEED     a long run on a database of its own; prints what failed
"""

from __future__ import annotations

import json
import random
import re
import struct
import sys
import tempfile
import zlib
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from fastapi.routing import APIRoute
from starlette.testclient import TestClient

from ohmack.demo.jobs import demo_design
from ohmack.formats.design_file import write_design
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.web.settings import Settings
from signing_in import signed_in

TEMPLATES = Path(__file__).resolve().parents[2] / "src/ohmack/web/templates"
NAMES = sorted({n for f in TEMPLATES.rglob("*.html") for n in re.findall(r'name="([a-z_]+)"', f.read_text())})
DIGITS = "9" * 5000
WORDS = [
    "",
    " ",
    "0",
    "1",
    "-1",
    "²",
    "①",
    "１２",
    DIGITS,
    "-" + DIGITS,
    "1e999",
    "nan",
    "inf",
    "1e308",
    "0x10",
    "1_000",
    "2.500",
    "€450",
    "2 x 25",
    "D4",
    "3 AWG",
    "95 mm2",
    "14.1 V",
    "9.1 Vpk",
    "yes",
    "no",
    "true",
    "null",
    "[]",
    "{}",
    '{"value":',
    "\0",
    "\ud7ff",
    "\u202e",
    "🚗",
    "<b>x</b>",
    "' OR 1=1 --",
    "../../etc/passwd",
    "%s%n",
    "{{7*7}}",
    "x" * 5000,
    "a;b,c\td|e",
    "measured",
    "assumed",
    "documented",
    "now",
    "later",
    "wanted",
    "radio",
    "factory-amp",
    "display",
    "removed",
    "replaced",
    "bypassed",
    "interface",
    "resistance",
    "pop test",
    "new radio alone",
    "powered subwoofer",
    "pick up at the radio",
    "optical ring",
    "earlier damage",
    "amplifier",
    "subwoofer",
    "driver",
    "converter",
    "A",
    "B",
    "C",
    "J-0401",
    "J-0401-B",
    "J-9999",
    "c1",
    "w1",
    "r1",
    "ch-fl",
]
STAGES = [
    "survey",
    "plan",
    "harness",
    "joints",
    "finder",
    "loads",
    "signal",
    "supply",
    "build",
    "order",
    "prove",
    "handover",
    "functions",
    "strategies",
    "options",
    "measure",
    "fit",
    "history",
    "job",
    "nowhere",
]


def paths_of(tree: Any, head: str = "") -> Iterator[str]:
    """Every path of a design's plain tree, items by their ids."""
    if isinstance(tree, dict):
        for name, value in tree.items():
            yield f"{head}{name}"
            yield from paths_of(value, f"{head}{name}/")
    elif isinstance(tree, list):
        for item in tree:
            if isinstance(item, dict) and "id" in item:
                yield f"{head}{item['id']}"
                yield from paths_of(item, f"{head}{item['id']}/")


def png(dice: random.Random) -> bytes:
    """A small picture, sometimes claiming to be huge, sometimes cut."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    width, height = dice.choice([(4, 4), (0, 0), (70000, 70000), (5000, 3300), (1, 65000)])
    lines = zlib.compress(b"".join(b"\0" + bytes(min(width, 64)) for _ in range(min(height, 64))))
    head = struct.pack(">IIBBBBB", width, height, dice.choice([1, 8, 16]), dice.choice([0, 2, 3, 6]), 0, 0, 0)
    data = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", lines) + chunk(b"IEND", b"")
    return data[: dice.choice([len(data), len(data), dice.randrange(len(data))])]


def spoiled(dice: random.Random, data: bytes) -> bytes:
    """A file with a few bytes changed, cut or doubled."""
    body = bytearray(data)
    for _ in range(dice.choice([0, 1, 3, 30])):
        if body:
            at = dice.randrange(len(body))
            body[at : at + dice.choice([0, 1, 8])] = dice.choice(
                [b"", b"\0", b"9" * 400, b'"', b"\xff\xfe", b"{", b",;"]
            )
    return bytes(body[: dice.choice([len(body), len(body), dice.randrange(len(body) + 1)])])


def routes_of(routes: Any) -> Iterator[APIRoute]:
    """Every route of an application, those of its included routers too."""
    for route in routes:
        if isinstance(route, APIRoute):
            yield route
        else:
            yield from routes_of(getattr(getattr(route, "original_router", None), "routes", ()))


class Fuzz:
    """Requests drawn by a seed against an application."""

    def __init__(self, client: TestClient, database: Database, seed: int, by: Context = BUILT_IN) -> None:
        self.client, self.dice, self.by = client, random.Random(seed), by
        routes = list(routes_of(client.app.routes))  # type: ignore[attr-defined]
        self.posts = [
            r.path for r in routes if "POST" in (r.methods or ()) and r.path != "/sign-out"
        ]  # stays signed in
        self.gets = [r.path for r in routes if "GET" in (r.methods or ())]
        store = DesignStore(database)
        self.jobs = [store.open_job(by, f"Fuzz {n}", "", "Fuzz", demo_design(n)) for n in (0, 2, 6, 11)]
        self.store = store
        tree = json.loads(write_design(demo_design(2)))
        self.paths = sorted(set(paths_of(tree.get("design", tree))))
        self.files = [
            write_design(demo_design(0)),
            b"pin;use;colour\n1;ground;black\n2;Masse;BK/RD\n",
            b"kind,name,price\nbox,B,12\n",
            b",,,",
            b";",
            b'""',
        ]

    def word(self) -> str:
        """A value: a word of the trade, a path of a design, or rubbish."""
        pick = self.dice.random()
        if pick < 0.35:
            return self.dice.choice(self.paths)
        if pick < 0.42:
            return "".join(
                chr(self.dice.choice([self.dice.randrange(32, 127), self.dice.randrange(0xD7FF)])) for _ in range(9)
            )
        return self.dice.choice(WORDS)

    def address(self, path: str) -> str:
        """A route's address with its places filled, mostly with a job that is there."""
        job = self.dice.choice(self.jobs) if self.dice.random() < 0.9 else self.word()[:300].replace("/", "") or "x"
        filled = re.sub(r"\{number[^}]*\}", re.sub(r"[\0-\x20?#%\ud800-\udfff]", "x", job).replace("\\", "x"), path)
        stage = self.dice.choice(STAGES)
        filled = re.sub(r"\{(stage|sheet)[^}]*\}", stage, filled)
        return re.sub(
            r"\{[^}]*\}", lambda _: self.dice.choice(["1", "2", "99999", DIGITS[:40], "abc", "²", "-1", "A"]), filled
        )

    def form(self) -> dict[str, Any]:
        """Fields of any form, with a version that is mostly right."""
        names = self.dice.sample(NAMES, self.dice.randrange(0, 9))
        data: dict[str, Any] = {
            n: self.word() if self.dice.random() < 0.9 else [self.word(), self.word()] for n in names
        }
        if self.dice.random() < 0.85:
            record = self.store.load(self.by, self.dice.choice(self.jobs))
            data |= {"version": str(record.version), "base": str(record.number), "stage": self.dice.choice(STAGES)}
        if self.dice.random() < 0.5:
            data |= {"path": self.dice.choice(self.paths), "value": self.word()}
        return data

    def one(self) -> tuple[str, int]:
        """One request: (method and route, status)."""
        headers = {"HX-Request": "true"} if self.dice.random() < 0.5 else {}
        if self.dice.random() < 0.04:
            headers["Origin"] = self.dice.choice(
                ["null", "http://[", "http://testserver:99999999", "::", "https://testserver", "\xe4"]
            )
        if self.dice.random() < 0.12:
            path = self.dice.choice(self.gets)
            query = {
                n: self.word()
                for n in self.dice.sample(
                    ["show", "since", "q", "page", "away", "archived", "kind", "against", "wire"], 3
                )
            }
            return f"GET {path}", self._sent("GET", path, params=query, headers=headers)
        path = self.dice.choice(self.posts)
        files = None
        if self.dice.random() < (
            0.9 if "pin-map" in path or "photo" in path or "import" in path or "csv" in path else 0.02
        ):
            content = png(self.dice) if self.dice.random() < 0.4 else spoiled(self.dice, self.dice.choice(self.files))
            files = {self.dice.choice(["file", "photo", "file"]): (self.word()[:60], content)}
        return f"POST {path}", self._sent("POST", path, data=self.form(), files=files, headers=headers)

    def _sent(self, method: str, path: str, **more: Any) -> int:
        try:
            return int(self.client.request(method, self.address(path), **more).status_code)
        except (UnicodeEncodeError, ValueError) as error:
            if "ohmack" in str(error.__traceback__):
                raise
            return 0  # the client itself refuses to send it


def application(settings: DatabaseSettings, by: Context = BUILT_IN) -> TestClient:
    """The whole application, whose faults come as pages and not as exceptions."""
    made = Settings(
        database_host=settings.host,
        database_port=settings.port,
        database_user=settings.user,
        database_password=settings.password,
        allowed_hosts="testserver",
        summaries=False,
    )
    base = "http://testserver"
    return signed_in(made, base, by, follow_redirects=False, raise_server_exceptions=False)


def main(count: int, seed: int) -> int:
    """A long run; 1 where a server error was seen."""
    from ohmack.demo.load import load_demo
    from ohmack.launch.mariadb import MariaDbServer
    from ohmack.store.migrate import migrate

    with tempfile.TemporaryDirectory() as folder:
        server = MariaDbServer(Path(folder), quiet=True, fast=True)
        server.start()
        try:
            settings = DatabaseSettings("127.0.0.1", server.port, "ohmack", server.password)
            migrate(settings)
            database = Database(settings)
            load_demo(database)
            with application(settings) as client:
                fuzz, seen, failed = Fuzz(client, database, seed), Counter[int](), Counter[str]()
                for _ in range(count):
                    route, status = fuzz.one()
                    seen[status] += 1
                    if status >= 500:
                        failed[f"{status} {route}"] += 1
            print(dict(seen))
            for route, times in failed.most_common():
                print(times, route)
            return 1 if failed else 0
        finally:
            server.stop()


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]), int(sys.argv[2])))
