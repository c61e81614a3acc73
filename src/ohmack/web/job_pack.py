"""The job pack as a file: papers, lists, drawings and photos of one revision, made in a thread of its own."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from json import dumps
from tempfile import TemporaryFile
from threading import Thread
from typing import IO

from ohmack.core.evaluation.results import Results
from ohmack.formats import hand_over_csv as lists
from ohmack.formats.bundle import BundlePhoto, BundleWriter, Job, Option
from ohmack.formats.photo import Photo
from ohmack.formats.report import report
from ohmack.store.database import StoreError
from ohmack.store.design_rows import DesignRecord
from ohmack.store.packs import PackStore
from ohmack.store.photos import PhotoRecord
from ohmack.web.extras import extras
from ohmack.web.page import Page
from ohmack.web.papers.making import PAPERS, paper_pdf, paper_svg
from ohmack.web.papers.pdf import NoPapers
from ohmack.web.sheet import Asked
from ohmack.web.workshop import Workshop

LOG = logging.getLogger("ohmack")
PAPERS_IN = ("pack", "customer", "next", "proof", "build")
DRAWINGS_IN = ("pack", "supply", "signal", "loads", "handover")
LISTS: dict[str, Callable[[Results], bytes]] = {
    "readings": lists.readings_csv, "wires": lists.wires_csv, "fuses": lists.fuses_csv, "joints": lists.joints_csv,
    "settings": lists.settings_csv, "soak": lists.soak_csv, "left-open": lists.left_open_csv,
}  # fmt: skip
Step = tuple[str, Callable[[], None]]


class PackMaker:
    """One pack in the making."""

    def __init__(self, shop: Workshop, record: DesignRecord, day: str, writer: BundleWriter) -> None:
        self.shop, self.record, self.day = shop, record, day
        self._writer = writer
        self._thumbnails: dict[str, bytes] = {}
        self._known = shop.photos.list(shop.context, record.job_number)

    def page(self, sheet: str) -> Page:
        """A page of the revision the pack is of."""
        page = Page(self.record, self.shop.evaluation(self.record, sweep=sheet == "build"), sheet)
        page.extra = extras(self.shop, self.record, sheet, Asked())
        return page

    def steps(self) -> Iterator[Step]:
        """What is made, in order."""
        yield "designs", self._options
        for n, photo in enumerate(self._known, start=1):
            yield f"photo {n} of {len(self._known)}", partial(self._photo, photo)
        for name, make in LISTS.items():
            yield f"list: {name}", partial(self._list, name, make)
        for sheet in DRAWINGS_IN:
            yield f"drawing: {sheet}", partial(self._drawing, sheet)
        for name in PAPERS_IN:
            yield f"paper: {PAPERS[name].title}", partial(self._paper, name)

    def _photo(self, known: PhotoRecord) -> None:
        shop, number = self.shop, self.record.job_number
        image = shop.photos.pixels(shop.context, number, known.id, thumbnail=False)
        small = shop.photos.pixels(shop.context, number, known.id, thumbnail=True)
        taken = known.created_at.isoformat(timespec="seconds")
        photo = Photo(known.name, known.width_px, known.height_px, image, small)
        self._writer.add_photo(BundlePhoto(known.path, taken, bool(known.away), photo))
        if not known.away:
            self._thumbnails[f"{known.id} {known.name}"] = small

    def _list(self, name: str, make: Callable[[Results], bytes]) -> None:
        self._writer.add(f"lists/{name}.csv", make(self.page("pack").evaluation.results))

    def _drawing(self, sheet: str) -> None:
        if drawn := paper_svg(self.page(sheet)):
            self._writer.add(f"drawings/{sheet}.svg", drawn.encode())

    def _paper(self, name: str) -> None:
        photos = self._thumbnails if name == "pack" else None
        self._writer.add(f"papers/{name}.pdf", paper_pdf(self.page(PAPERS[name].sheet), name, photos))

    def _options(self) -> None:
        """This revision, and the job's other options as they stand."""
        shop, record = self.shop, self.record
        for address in shop.designs.options(shop.context, record.address):
            other = record if address == record.address else shop.designs.load(shop.context, address)
            self._writer.add_option(Option(other.letter, other.number, other.design))

    def finish(self) -> None:
        """The figures, and whose it is."""
        record = self.record
        told = report(self.shop.evaluation(record, sweep=False))
        self._writer.add("lists/figures.json", dumps(told).encode())
        self._writer.finish(Job(record.job_number, record.title, record.customer, record.phone, self.day))


@contextmanager
def make_pack(
    shop: Workshop, record: DesignRecord, day: str, tell: Callable[[int, str], None]
) -> Iterator[IO[bytes]]:  # fmt: skip
    """A pack of one revision.

    Parameters:
        shop: the workshop.
        record: the design in the revision the pack holds.
        day: the day it is made, ISO.
        tell: is told how many steps are done, and which is next.

    Returns:
        the bundle in a file without a name; it goes when it is closed.

    Raises:
        NoPapers: the system libraries that set type are missing.
    """
    with TemporaryFile() as file:
        writer = BundleWriter(file)
        try:
            maker, done = PackMaker(shop, record, day, writer), 0
            for done, (words, make) in enumerate(maker.steps()):
                tell(done, words)
                make()
            tell(done + 1, "putting it together")
            maker.finish()
        except BaseException:
            writer.abandon()
            raise
        yield file


def steps_of(shop: Workshop, record: DesignRecord) -> int:
    """How many steps a pack takes, the designs first and putting it together last."""
    photos = len(shop.photos.list(shop.context, record.job_number))
    return 2 + photos + len(LISTS) + len(DRAWINGS_IN) + len(PAPERS_IN)


def begin_pack(shop: Workshop, record: DesignRecord, day: str) -> Thread:
    """Begin to make a pack in a thread of its own; its row says how far it is."""
    total = steps_of(shop, record)
    pack_id = shop.packs.begin(shop.context, record.design_id, record.number, total)
    thread = Thread(target=_make, args=(shop, record, day, pack_id), name=f"pack {record.address}", daemon=True)
    thread.start()
    return thread


def _make(shop: Workshop, record: DesignRecord, day: str, pack_id: int) -> None:
    packs: PackStore = shop.packs
    try:
        with make_pack(shop, record, day, partial(packs.touch, shop.context, pack_id)) as file:
            packs.keep(shop.context, record.design_id, pack_id, file)
    except NoPapers as error:
        _failed(shop, pack_id, str(error))
    except StoreError:
        LOG.warning("the pack of %s could not be kept", record.address)
    except Exception:
        LOG.exception("the pack of %s could not be made", record.address)
        _failed(shop, pack_id, "a fault in Ohmack; it was noted in its log")


def _failed(shop: Workshop, pack_id: int, why: str) -> None:
    try:
        shop.packs.fail(shop.context, pack_id, why)
    except StoreError:
        LOG.warning("the end of a pack could not be noted")
