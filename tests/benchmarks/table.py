"""The benchmark table: ./ohmack benchmark. Wall times are printed, never asserted."""

from __future__ import annotations

import gzip
import re
import statistics
import subprocess
import sys
import tempfile
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "src"))

from gains import cases as signal_cases
from handover import handover_rows
from hunts import figures
from loads import cases
from power import cases as power_cases
from prove import prove_cases
from shop import shop_rows
from starlette.testclient import TestClient
from work import work_cases

from ohmack.core.document.edits import apply_edits
from ohmack.core.document.harness import Hunt
from ohmack.core.document.paths import design_facts
from ohmack.core.evaluation.door import Retracing, evaluate
from ohmack.core.harness import wire_finder
from ohmack.core.harness.wire_finder import find
from ohmack.core.network.states import State
from ohmack.core.planning.harness import new_connector
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.demo.load import load_demo
from ohmack.formats.spice_netlist import netlist
from ohmack.launch.mariadb import MariaDbServer
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.migrate import migrate
from ohmack.web.serving import settle
from ohmack.web.settings import Settings
from signing_in import signed_in

BASE = "http://127.0.0.1:8417"


def clock(work: Callable[[], object], times: int) -> tuple[float, float]:
    """(median, 95th percentile) in ms."""
    work()
    spans = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        spans.append((time.perf_counter() - start) * 1000)
    spans.sort()
    return statistics.median(spans), spans[int(0.95 * (len(spans) - 1))]


def row(name: str, middle: float, high: float, target: str, digits: int = 1) -> None:
    """One line of the table."""
    print(f"{name:<60}{middle:>9.{digits}f}{high:>9.{digits}f}   {target}", flush=True)


def measure_against_ngspice() -> None:
    """The core against one run of ngspice on the estate's supply loop, as ratios: machines differ."""
    design = demo_design(0)
    study = evaluate(design).results.power
    with tempfile.NamedTemporaryFile("w", suffix=".cir") as file:
        file.write(netlist(study, State.RUNNING))
        file.flush()
        spice, _ = clock(lambda: subprocess.run(["ngspice", "-b", file.name], capture_output=True, check=False), 15)
    row("ngspice -b, the estate's supply loop, ms", spice, spice, "")
    whole, high = clock(lambda: evaluate(design), 200)
    row("a whole evaluation over it", whole / spice, high / spice, "0.35 at most", 3)
    tracing = Retracing(design)
    values = [(path, fact.value * 1.1) for path, fact, _, _ in design_facts(design) if isinstance(fact.value, float)]
    spans = [clock(lambda p=p, v=v: tracing.after(p, v), 5)[0] / spice for p, v in values]
    row(
        "the evaluation after one changed fact over it, all facts",
        sum(spans) / len(spans),
        max(spans),
        "0.15 at most",
        3,
    )
    designs = [demo_design(n) for n in range(len(demo_jobs()))]
    sweeps = [clock(lambda d=design: evaluate(d, sweep_facts=True), 3)[0] for design in designs]
    row("sweeps of all demo designs, median and longest, ms", statistics.median(sweeps), max(sweeps), "under 250")


def main() -> None:
    """Measure the core alone, then the server on a throwaway database; the collector is as quiet as in what serves."""
    settle()
    print(f"{'':<52}{'median':>9}{'p95':>9}   target")
    for number, name in ((0, "estate, complete"), (1, "hatch, half surveyed")):
        design = demo_design(number)
        row(f"evaluate(), {name}, ms", *clock(lambda d=design: evaluate(d), 200), "under 5")
        row(f"whole sweep, {name}, ms", *clock(lambda d=design: evaluate(d, sweep_facts=True), 15), "under 250")
    measure_against_ngspice()
    measure_hunt()
    for name, work, times, target in (*cases(), *signal_cases(), *power_cases(), *work_cases(), *prove_cases()):
        row(name, *clock(work, times), target)
    with tempfile.TemporaryDirectory() as home:
        server = MariaDbServer(Path(home), quiet=True)
        server.start()
        try:
            settings = DatabaseSettings(port=server.port, password=server.password)
            migrate(settings)
            database = Database(settings)
            load_demo(database)
            web = Settings(database_port=server.port, database_password=server.password, summaries=False)
            with signed_in(web, BASE) as client:
                measure_server(client)
                for found in (*handover_rows(client, database, clock), *shop_rows(database, settings)):
                    row(*found)
        finally:
            server.stop()


def measure_hunt() -> None:
    """The wire finder at its largest, and a connector of five hundred pins."""
    vehicle = demo_design(7).vehicle
    assert vehicle.hunt is not None
    bare = vehicle.hunt.model_copy(update={"readings": ()})

    def anew(hunt: Hunt) -> None:
        wire_finder._find.cache_clear()  # what is kept from the last question is no measure
        find(vehicle, hunt)

    row("wire finder, 16 wires, nothing read, ms", *clock(lambda: anew(bare), 20), "under 200")
    row("wire finder, 16 wires, 8 readings, ms", *clock(lambda: anew(vehicle.hunt), 20), "under 200")
    tracemalloc.start()
    anew(bare)
    peak_mb = tracemalloc.get_traced_memory()[1] / 1e6
    tracemalloc.stop()
    row("wire finder, 16 wires, peak memory, MB", peak_mb, peak_mb, "under 32")
    print("  mean tests, mean minutes by the finder's own clock")
    for pairs, many in ((5, 30), (8, 6)):
        for name, tests, minutes in figures(pairs, many):
            row(name, tests, minutes, {5: "18 / 12", 8: "42 / 25"}[pairs])
    estate = demo_design(0)
    big = apply_edits(estate, new_connector(estate, "Big", 10, 50))
    row("evaluate(), estate with 500 pins more, ms", *clock(lambda: evaluate(big), 30), "")


def measure_server(client: TestClient) -> None:
    """Edits from request to rendered swap, pages, and the weight of the first page."""
    flip = [0]

    def edit() -> None:
        page = client.get("/jobs/J-0401/loads", headers={"HX-Request": "true"}).text
        version = re.search(r'name="version" value="(\d+)"', page)
        flip[0] += 1
        value = "series(1,2)" if flip[0] % 2 else "parallel(1,2)"
        data = {
            "version": version[1] if version else "",
            "base": "1",
            "stage": "loads",
            "path": "links/speaker-sub/wiring",
            "value": value,
        }
        start = time.perf_counter()
        answer = client.post("/jobs/J-0401/choose", data=data, headers={"HX-Request": "true"})
        spans.append((time.perf_counter() - start) * 1000)
        assert answer.status_code == 200

    spans: list[float] = []
    for _ in range(60):
        edit()
    spans = sorted(spans[5:])
    row(
        "an edit, request to rendered swap, ms",
        statistics.median(spans),
        spans[int(0.95 * (len(spans) - 1))],
        "under 40",
    )
    for stage in ("survey", "supply", "build"):
        row(f"page {stage}, cached evaluation, ms", *clock(lambda s=stage: client.get(f"/jobs/J-0401/{s}"), 20), "")
    html = client.get("/jobs/J-0401/supply").text
    weight = len(gzip.compress(html.encode(), 5))
    for address in set(re.findall(r'(?:href|src)="(/static/[^"]+)"', html)):
        weight += len(gzip.compress(client.get(address).content, 5))
    css = client.get("/static/ohmack.css").text
    weight += sum(len(client.get(f"/static/{a}").content) for a in re.findall(r"url\((vendor/fonts/[^)]+)\)", css))
    row("first page over the wire, kB", weight / 1000, weight / 1000, "under 300")


if __name__ == "__main__":
    main()
