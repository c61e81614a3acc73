"""Several web processes on a cluster whose servers are killed under load: nothing that was acknowledged is lost."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from random import uniform

from cluster.galera import PASSWORD, Cluster
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.demo.jobs import demo_design
from ohmack.launch.mariadb import free_port
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Conflict, Database
from ohmack.store.designs import DesignStore
from ohmack.store.sessions import From, SessionStore
from ohmack.store.tokens import form_token_of

ROOT = Path(__file__).resolve().parents[2]
WRITERS = 4
LOAD_S = 34.0
PAUSE_S = 0.3


@contextmanager
def web(cluster: Cluster, first: int) -> Iterator[str]:
    """A web process of its own, which asks that server first."""
    port = free_port()
    environment = os.environ | {
        "PYTHONPATH": "src", "OHMACK_PORT": str(port), "OHMACK_DATABASE_HOST": cluster.settings(first).host,
        "OHMACK_DATABASE_PASSWORD": PASSWORD, "OHMACK_SUMMARIES": "no",
    }  # fmt: skip
    command = [sys.executable, "-m", "ohmack.launch.commands", "serve"]
    process = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        for _ in range(300):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/ready", timeout=5).close()
                break
            except OSError:
                time.sleep(0.2)
        yield f"http://127.0.0.1:{port}"
    finally:
        process.kill()
        process.wait()


@dataclass
class Writer:
    """Somebody who edits and remembers what was acknowledged."""

    base: str
    job: str
    name: str
    token: str
    acknowledged: list[str] = field(default_factory=list)
    refused: int = 0
    slowest_s: float = 0.0

    def go(self, until: float) -> None:
        """Edit until that time."""
        opener = urllib.request.build_opener(_NoRedirect)
        n = 0
        while time.monotonic() < until:
            n += 1
            value, begun = f"{self.name}-{n}", time.monotonic()
            try:
                page = urllib.request.Request(f"{self.base}/jobs/{self.job}/policy", headers=self._headers())
                found = re.search(
                    r'data-version="(\d+)"\s+data-base="(\d+)"', opener.open(page, timeout=40).read().decode()
                )
                assert found
                fields = {"version": found[1], "base": found[2], "stage": "policy", "path": "title", "value": value,
                          "form_token": form_token_of(self.token)}  # fmt: skip
                asked = urllib.request.Request(
                    f"{self.base}/jobs/{self.job}/edit", urllib.parse.urlencode(fields).encode(), self._headers()
                )
                opener.open(asked, timeout=40).close()
                self.refused += 1  # a page where a redirect was due
            except urllib.error.HTTPError as error:
                if error.code == 303 and "/edit" in str(error.url):
                    self.acknowledged.append(value)
                else:
                    self.refused += 1
            except OSError:
                self.refused += 1
            self.slowest_s = max(self.slowest_s, time.monotonic() - begun)
            time.sleep(uniform(0, PAUSE_S))  # nobody types without a pause, and two who never pause race for ever

    def _headers(self) -> dict[str, str]:
        return {"Origin": self.base, "Cookie": f"ohmack={self.token}"}


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_: object) -> None:
        return None


def test_no_acknowledged_edit_is_lost_when_servers_die(cluster: Cluster) -> None:
    database = Database(cluster.settings())
    store = DesignStore(database)
    jobs = [store.open_job(BUILT_IN, f"Load {n}", "", "Load", demo_design(2)) for n in range(3)]
    token = SessionStore(database).begin(BUILT_IN, 1, From())
    with web(cluster, 0) as one, web(cluster, 1) as two:
        writers = [
            Writer((one, two)[n % 2], jobs[min(n, len(jobs) - 1)], f"w{n}", token) for n in range(WRITERS)
        ]  # the last two share a job
        until = time.monotonic() + LOAD_S
        threads = [threading.Thread(target=writer.go, args=(until,)) for writer in writers]
        for thread in threads:
            thread.start()
        time.sleep(5)
        cluster.nodes[1].kill()
        time.sleep(9)
        cluster.nodes[1].start()
        time.sleep(4)
        cluster.nodes[0].kill()  # the one that everything began with
        for thread in threads:
            thread.join(90)
        cluster.nodes[0].start()
    deadline = time.monotonic() + 60
    while cluster.size() < 3 and time.monotonic() < deadline:
        time.sleep(0.2)
    assert cluster.size() == 3
    told = {value for writer in writers for value in writer.acknowledged}
    print(json.dumps({w.name: [len(w.acknowledged), w.refused, round(w.slowest_s, 1)] for w in writers}))
    assert all(len(w.acknowledged) > 5 for w in writers), "everybody went on working"
    for node in cluster.nodes:
        node.ask("SET GLOBAL wsrep_sync_wait = 1")
        rows = node.ask("SELECT JSON_VALUE(document, '$.title') FROM ohmack.revisions")
        lost = told - {title for (title,) in rows}
        assert not lost, (node.home.name, sorted(lost)[:5])
        numbers = node.ask("SELECT design_id, COUNT(*), MAX(number) FROM ohmack.revisions GROUP BY design_id")
        assert all(count == last for _, count, last in numbers), "no number twice, none left out"
    assert (
        len({str(node.ask("CHECKSUM TABLE ohmack.revisions, ohmack.designs, ohmack.jobs")) for node in cluster.nodes})
        == 1
    )


def test_two_that_edit_one_design_on_two_servers_never_overwrite_each_other(cluster: Cluster) -> None:
    """Certification refuses one of two commits that met; it is tried again, finds the new version, and says so."""
    stores = [DesignStore(Database(cluster.settings(n))) for n in range(3)]
    number = stores[0].open_job(BUILT_IN, "Both", "", "Both", demo_design(2))
    won: list[str] = []
    lock = threading.Lock()

    def work(n: int) -> None:
        for k in range(25):
            record = stores[n].load(BUILT_IN, number)
            edited = apply_edits(record.design, [Edit(path="title", value=f"{n}-{k}")])
            try:
                stores[n].save(BUILT_IN, record.design_id, record.version, edited, f"{n}-{k}")
            except Conflict:
                continue
            with lock:
                won.append(f"{n}-{k}")

    threads = [threading.Thread(target=work, args=(n,)) for n in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(120)
    record = stores[0].load(BUILT_IN, number)
    reasons = [row.reason for row in stores[1].history(BUILT_IN, record.design_id)]
    assert sorted(reasons) == sorted([*won, "job opened"])
    assert record.number == len(won) + 1
    assert len(won) >= 25


def test_numbers_of_jobs_are_no_two_alike_on_all_servers(cluster: Cluster) -> None:
    numbers: list[str] = []
    lock = threading.Lock()

    def work(n: int) -> None:
        store = DesignStore(Database(cluster.settings(n)))
        for k in range(8):
            number = store.open_job(BUILT_IN, f"Numbered {n} {k}", "", "Numbered", demo_design(2))
            with lock:
                numbers.append(number)

    threads = [threading.Thread(target=work, args=(n,)) for n in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(120)
    assert len(numbers) == len(set(numbers)) == 24
    found = sorted(int(n.removeprefix("J-")) for n in numbers)
    assert found == list(range(found[0], found[0] + 24)), "none is left out either"
