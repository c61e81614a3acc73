"""The shop at its size: letters typed with 100,000 jobs, twenty people on two processes, a backup of 1,000 jobs.

python tests/benchmarks/shop.py     these rows alone, on a database of their own
"""

from __future__ import annotations

import gzip
import os
import random
import re
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from http.client import HTTPConnection
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "tests"))
sys.path.insert(0, str(ROOT / "src"))

import httpx2  # noqa: E402
from starlette.testclient import TestClient  # noqa: E402

from ohmack.core.document.policy import Policy  # noqa: E402
from ohmack.core.planning.standing import Standing  # noqa: E402
from ohmack.demo.jobs import demo_design  # noqa: E402
from ohmack.formats.backup_file import verify_backup  # noqa: E402
from ohmack.launch.mariadb import MariaDbServer, free_port  # noqa: E402
from ohmack.store.backup import back_up  # noqa: E402
from ohmack.store.context import BUILT_IN, Context  # noqa: E402
from ohmack.store.database import Database, DatabaseSettings  # noqa: E402
from ohmack.store.designs import DesignStore  # noqa: E402
from ohmack.store.migrate import migrate  # noqa: E402
from ohmack.store.people import PeopleStore, add_shop  # noqa: E402
from ohmack.store.roles import Role  # noqa: E402
from ohmack.store.search import words_of  # noqa: E402
from ohmack.store.sessions import From, SessionStore  # noqa: E402
from ohmack.store.tokens import form_token_of  # noqa: E402
from ohmack.web.settings import Settings  # noqa: E402
from signing_in import signed_in  # noqa: E402

JOBS, PEOPLE, EDITS, THINKS_S = 100_000, 20, 6, 8.0
BASE = "http://127.0.0.1:8417"
SOUNDS = (
    "ka",
    "lo",
    "mi",
    "ten",
    "bra",
    "vo",
    "sel",
    "dor",
    "pin",
    "ul",
    "gri",
    "ane",
    "ost",
    "eri",
    "wil",
    "tam",
    "bek",
)
DONE = ("bass", "doors", "radio", "noise", "camera", "amplifier", "tweeters", "battery", "lamps", "subwoofer")
FIRST = 1_000_000  # numbers of the entries, behind all others
ENTRY = (
    "INSERT INTO search_entries (id, shop_id, kind, ref, title, line, address, words) VALUES"
    " (%s, %s, 'job', %s, %s, %s, '/', %s)"
)
CAR = "INSERT INTO vehicles (shop_id, customer_id, make, model, body) VALUES (%s, %s, 'M', 'T', 'estate')"
JOB = "INSERT INTO jobs (shop_id, number, customer_id, vehicle_id, title, standing) VALUES (%s, %s, %s, %s, 'Kept', %s)"
DESIGN = "INSERT INTO designs (shop_id, job_id, letter, current_number) VALUES (%s, %s, 'A', 6)"
REVISION = (
    "INSERT INTO revisions (shop_id, person_id, design_id, number, document, reason)"
    " VALUES (%s, %s, %s, %s, %s, 'kept')"
)
WORD = "INSERT INTO search_words (shop_id, word, entry_id) VALUES (%s, %s, %s)"
Row = tuple[str, float, float, str]


def names(dice: random.Random, count: int) -> list[str]:
    """Invented names."""
    return ["".join(dice.choice(SOUNDS) for _ in range(dice.randint(2, 4))).title() for _ in range(count)]


def many_jobs(database: Database, by: Context, count: int) -> list[str]:
    """So many jobs with customers and cars, found by their words; what people may type to find them."""
    dice = random.Random(20)
    people, makes, models = names(dice, 9_000), names(dice, 40), names(dice, 500)
    typed: list[str] = []

    def rows(first: int, last: int) -> Iterator[tuple[int, str, str, list[str]]]:
        for n in range(first, last):
            who, car = f"{dice.choice(people)} {dice.choice(people)}", f"{dice.choice(makes)} {dice.choice(models)}"
            number, title = f"J-{n:06d}", f"{dice.choice(DONE)} and {dice.choice(DONE)}"
            if n % 250 == 0:
                typed.extend((who.split()[0].lower(), car.split()[1].lower(), who.lower(), number.lower(), title))
            line = f"{who} · {car} {1990 + n % 36}"
            words = list(dict.fromkeys(words_of(f"{number} {title} {line} {n} 555 {n % 9973:04d}")))
            yield n, f"{number} {title}", line, words

    def fill(first: int, last: int) -> Any:
        made = list(rows(first, last))

        def work(c: Any) -> None:
            with c.cursor() as cursor:
                cursor.executemany(
                    ENTRY, [(FIRST + n, by.shop_id, n, t, line, f" {' '.join(w)} ") for n, t, line, w in made]
                )
                cursor.executemany(WORD, [(by.shop_id, word, FIRST + n) for n, _, _, w in made for word in w])

        return work

    for first in range(0, count, 2_000):
        database.run(fill(first, min(first + 2_000, count)))
    return typed


def search_rows(database: Database, settings: DatabaseSettings) -> Iterator[Row]:
    """Every beginning of what is typed, letter by letter, through the page."""
    by = add_shop(database, "A hundred thousand", Policy())
    typed = many_jobs(database, by, JOBS)
    dice = random.Random(5)
    asked = [word[:n] for word in dice.sample(typed, 60) for n in range(1, min(len(word), 14) + 1)]
    with signed_in(_web(settings), BASE, by) as client:
        times = [_timed(client, f"/search?typed=yes&words={text}") for text in asked]
    yield (f"search, {len(asked)} times letters typed, {JOBS:,} jobs, ms", *_middle(times), "p95 under 50")


def _web(settings: DatabaseSettings) -> Settings:
    return Settings(database_port=settings.port, database_password=settings.password, summaries=False)


def _timed(client: TestClient, address: str) -> float:
    begun = time.perf_counter()
    answer = client.get(address, headers={"HX-Request": "true"})
    assert answer.status_code == 200
    return (time.perf_counter() - begun) * 1000


def _middle(times: list[float]) -> tuple[float, float]:
    ordered = sorted(times)
    return ordered[len(ordered) // 2], ordered[int(len(ordered) * 0.95)]


def people_rows(database: Database, settings: DatabaseSettings) -> Iterator[Row]:
    """Twenty people, each on a job of their own, an edit every eight seconds; from sending to the page to swap in."""
    store, port = DesignStore(database), free_port()
    jobs = [store.open_job(BUILT_IN, f"Person {n}", "", "Busy", demo_design(n % 12)) for n in range(PEOPLE)]
    tokens = [SessionStore(database).begin(BUILT_IN, 1, From()) for _ in jobs]
    environment = os.environ | {
        "PYTHONPATH": str(ROOT / "src"), "OHMACK_PORT": str(port), "OHMACK_DATABASE_PORT": str(settings.port),
        "OHMACK_DATABASE_PASSWORD": settings.password, "OHMACK_SUMMARIES": "no",
    }  # fmt: skip
    with tempfile.TemporaryDirectory() as var:
        served = subprocess.Popen(
            [sys.executable, "-m", "ohmack.launch.commands", "serve", "--workers", "2"], cwd=ROOT,
            env=environment | {"OHMACK_VAR": var}, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        try:
            base, times = f"http://127.0.0.1:{port}", list[float]()
            _until_ready(base)
            threads = [
                threading.Thread(target=_person, args=(port, j, t, times)) for j, t in zip(jobs, tokens, strict=True)
            ]
            before = _ticks()
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            taken = [then - now for then, now in zip(_ticks(), before, strict=True)]
        finally:
            served.terminate()
            served.wait(20)
    assert len(times) == PEOPLE * EDITS
    yield (
        f"edit to swapped page, {PEOPLE} people, one each {THINKS_S:g} s, 2 processes, {_stolen(taken)}, ms",
        *_middle(times),
        "p95 under 60",
    )


def _ticks() -> list[int]:
    """What the processors did so far, as Linux counts it; nothing elsewhere."""
    stat = Path("/proc/stat")
    return [int(n) for n in stat.read_text("ascii").split("\n")[0].split()[1:9]] if stat.exists() else []


def _stolen(ticks: list[int]) -> str:
    """How much of the time that was wanted went to other machines on the same host: no figure of ours when it is much.

    `/proc/stat` has user, nice, system, idle, iowait, irq, softirq, steal (proc(5)).
    """
    wanted = sum(ticks) - sum(ticks[3:5])
    return f"{ticks[7] / wanted:.0%} of the time stolen" if wanted > 0 else "stolen time not known"


def _until_ready(base: str) -> None:
    for _ in range(300):
        try:
            if httpx2.get(f"{base}/ready").status_code == 200:
                return
        except httpx2.HTTPError:
            time.sleep(0.2)


def _person(port: int, job: str, token: str, times: list[float]) -> None:
    """One browser: a connection that stays open, and little work of its own beside the server on its two cores."""
    dice = random.Random(job)
    headers = {"Origin": f"http://127.0.0.1:{port}", "HX-Request": "true", "Cookie": f"ohmack={token}",
               "Accept-Encoding": "gzip", "Content-Type": "application/x-www-form-urlencoded"}  # fmt: skip
    connection = HTTPConnection("127.0.0.1", port, timeout=60)

    def asked(method: str, address: str, body: str = "") -> bytes:
        connection.request(method, f"/jobs/{job}/{address}", body or None, headers)
        answer = connection.getresponse()
        assert answer.status == 200, answer.status
        return answer.read()

    time.sleep(dice.uniform(0, 4))
    page = asked("GET", "supply")
    for n in range(EDITS + 1):
        time.sleep(dice.uniform(0.5, 1.5) * THINKS_S)
        found = re.search(rb'data-version="(\d+)"\s+data-base="(\d+)"', gzip.decompress(page))
        assert found
        fields = {"version": found[1], "base": found[2], "stage": "supply", "path": "policy/drop_limit_v",
                  "value": f"0.{41 + n}", "form_token": form_token_of(token)}  # fmt: skip
        begun = time.perf_counter()
        page = asked("POST", "edit", urlencode(fields))
        taken_ms = (time.perf_counter() - begun) * 1000
        if n:  # the first one in a process finds nothing warm
            times.append(taken_ms)
    connection.close()


def backup_rows(database: Database, settings: DatabaseSettings) -> Iterator[Row]:
    """A thousand jobs of six revisions each, as real plans."""
    by = PeopleStore(database).ready_made(add_shop(database, "A thousand", Policy()), "B", "b-of-1000",
                                          Role.OWNER, "nobody signs in as this one")  # fmt: skip
    store = DesignStore(database)
    first = store.open_job(by, "Kept", "555 1", "Kept", demo_design(0))
    design_id = store.load(by, first).design_id

    def copies(c: Any) -> None:
        with c.cursor() as cursor:
            cursor.execute("SELECT document FROM revisions WHERE design_id = %s", (design_id,))
            document = cursor.fetchone()["document"]
            for n in range(1_000):
                cursor.execute("INSERT INTO customers (shop_id, name) VALUES (%s, %s)", (by.shop_id, f"C {n}"))
                customer = cursor.lastrowid
                cursor.execute(CAR, (by.shop_id, customer))
                cursor.execute(JOB, (by.shop_id, f"J-{n + 5000}", customer, cursor.lastrowid, n % len(Standing)))
                cursor.execute(DESIGN, (by.shop_id, cursor.lastrowid))
                copied = [(by.shop_id, by.person_id, cursor.lastrowid, k, document) for k in range(1, 7)]
                cursor.executemany(REVISION, copied)

    database.run(copies)
    with tempfile.TemporaryDirectory() as folder:
        path, times = Path(folder) / "shop.backup", []
        for _ in range(2):
            begun = time.perf_counter()
            made = back_up(settings, path)
            times.append(time.perf_counter() - begun)
        size = path.stat().st_size / 1e6
        begun = time.perf_counter()
        verify_backup(path)
        read = time.perf_counter() - begun
    yield (
        f"backup of 1,000 jobs, {made.tables['revisions'].rows:,} revisions, {size:.0f} MB, s",
        min(times),
        max(times),
        "under 10",
    )
    yield "the same read to its end, s", read, read, ""


def shop_rows(database: Database, settings: DatabaseSettings) -> Iterator[Row]:
    """(name, median, 95th percentile, aim)."""
    yield from people_rows(database, settings)
    yield from backup_rows(database, settings)
    yield from search_rows(database, settings)


def main() -> int:
    """These rows alone."""
    with tempfile.TemporaryDirectory() as home:
        server = MariaDbServer(Path(home), quiet=True)
        server.start()
        try:
            settings = DatabaseSettings(port=server.port, password=server.password)
            migrate(settings)
            for name, middle, high, aim in shop_rows(Database(settings), settings):
                print(f"{name:<70} {middle:8.1f} {high:8.1f}   {aim}", flush=True)
        finally:
            server.stop()
    return 0


if __name__ == "__main__":
    sys.exit(main())
