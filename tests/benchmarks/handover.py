"""Handing over: a pack with forty photos as the bay takes them, the weight of the page behind a link, a bundle read."""

from __future__ import annotations

import io
import random
import re
from collections.abc import Callable
from datetime import date, timedelta

from PIL import Image
from starlette.testclient import TestClient

from ohmack.formats.bundle import open_bundle
from ohmack.formats.photo import read_photo
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.web.job_pack import make_pack
from ohmack.web.workshop import Workshop

JOB, PHOTOS = "J-0417", 40


def shot(seed: int) -> bytes:
    """A picture of twelve megapixels that packs as badly as a dark boot does."""
    noise = Image.frombytes("L", (400, 300), random.Random(seed).randbytes(120_000))
    out = io.BytesIO()
    noise.resize((4000, 3000)).convert("RGB").save(out, "JPEG", quality=88)
    return out.getvalue()


def handover_rows(client: TestClient, database: Database, clock: Callable[..., tuple[float, float]]) -> list[
    tuple[str, float, float, str]
]:  # fmt: skip
    """(name, median, 95th percentile, aim)."""
    shop = Workshop(database).seen_by(BUILT_IN)
    taken = [read_photo(shot(n), f"shot {n}.jpg") for n in range(4)]
    for n in range(PHOTOS):
        shop.photos.add(BUILT_IN, JOB, "vehicle/radio", taken[n % 4])
    record = shop.designs.load(BUILT_IN, JOB)
    made: list[bytes] = []

    def pack() -> None:
        with make_pack(shop, record, "2026-11-28", lambda done, words: None) as file:
            file.seek(0)
            made[:] = [file.read()]

    def read() -> None:
        with open_bundle(io.BytesIO(made[0])) as bundle:
            list(bundle.photos())

    middle, high = clock(pack, 2)
    rows = [(f"pack with {PHOTOS} photos, {len(made[0]) / 1e6:.0f} MB, s", middle / 1000, high / 1000, "under 15")]
    middle, high = clock(read, 2)
    rows.append(("the same read, checked, photos decoded, s", middle / 1000, high / 1000, ""))
    token = shop.links.make(BUILT_IN, record.design_id, record.number, date.today() + timedelta(days=9))
    page, style = client.get(f"/l/{token}"), client.get("/l/style.css")
    fonts = [client.get(address) for address in re.findall(r"url\((/static/[^)]+)\)", style.text)]
    weight = sum(len(answer.content) for answer in (page, style, *fonts)) / 1000
    rows.append(("page behind a link, style and fonts, unpacked, kB", weight, weight, "under 100"))
    return rows
