"""One job on the bench: load, edit, evaluate. The only place where routes meet the core."""

from __future__ import annotations

import copy
import logging
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from threading import Lock, Thread
from typing import Any, TypeVar

from ohmack.core.document import Design, Fact
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.paths import get
from ohmack.core.errors import BadDocument, OhmackError, UnknownName
from ohmack.core.evaluation.answer import Evaluation, Moved
from ohmack.core.evaluation.changes import what_moved
from ohmack.core.evaluation.door import evaluate, swept
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.brought_along import brought_along
from ohmack.core.planning.options import with_survey
from ohmack.store.bundles import BundleStore
from ohmack.store.cars import CarStore
from ohmack.store.context import Context
from ohmack.store.customer_links import CustomerLinkStore
from ohmack.store.customers import CustomerStore
from ohmack.store.database import Conflict, Database, StoreError
from ohmack.store.design_rows import BrokenDesign, DesignRecord
from ohmack.store.designs import DesignStore
from ohmack.store.instruments import InstrumentStore
from ohmack.store.packs import PackStore
from ohmack.store.people import shops
from ohmack.store.photos import PhotoStore
from ohmack.store.search import SearchStore
from ohmack.store.shop import ShopStore
from ohmack.store.summaries import Summary, SummaryStore
from ohmack.store.templates import TemplateStore
from ohmack.store.work import WorkStore
from ohmack.web.thumbnail import thumbnail

CACHE_SIZE = 64
REMEMBERED = 24  # trials of a whole shelf and the like
T = TypeVar("T")
HISTORY_DEPTH = 60
SHARE_TRIES = 3
MERGE_TRIES = 8
LOG = logging.getLogger("ohmack")


@dataclass(frozen=True)
class FactChange:
    """One change of a fact: what it was, what it became, which figures moved."""

    when: str
    before: Fact[Any]
    after: Fact[Any]
    moved: tuple[Moved, ...]


class Unjudged(OhmackError):
    """A design the core cannot evaluate: it is never saved, and one that is stored shows where it fails."""


def judged(design: Design, sweep: bool = False, known: Evaluation | None = None) -> Evaluation:
    """The evaluation of a design; one that is `known` without its sweep needs only that.

    Raises:
        OhmackError: it cannot be evaluated; the sentence says why.
    """
    try:
        return swept(known) if known is not None and sweep else evaluate(design, sweep_facts=sweep)
    except OhmackError:
        raise
    except Exception as error:  # a fault of ours must not lock anybody out of a job
        LOG.exception("a design could not be evaluated")
        raise Unjudged(f"This plan cannot be judged ({type(error).__name__}).") from error


def summary_of(evaluation: Evaluation) -> Summary:
    """What the list of jobs keeps of an evaluation."""
    verdict = evaluation.verdict
    return Summary(
        verdict.state,
        verdict.headline,
        verdict.detail,
        evaluation.count(Severity.STOP),
        evaluation.count(Severity.WATCH),
        evaluation.measure_first is not None,
        str(thumbnail(evaluation)),
    )


class Workshop:
    """Stores and a small cache of evaluations; revisions are immutable, so the cache can never be wrong."""

    def __init__(self, database: Database) -> None:
        self.database = database
        self.context = Context(0, 0)  # nobody of no shop: only `seen_by` somebody it shows anything
        self.designs = DesignStore(database)
        self.shop = ShopStore(database)
        self.templates = TemplateStore(database)
        self.photos = PhotoStore(database)
        self.summaries = SummaryStore(database)
        self.work = WorkStore(database)
        self.instruments = InstrumentStore(database)
        self.links = CustomerLinkStore(database)
        self.packs = PackStore(database)
        self.cars = CarStore(database)
        self.bundles = BundleStore(database)
        self.search = SearchStore(database)
        self.customers = CustomerStore(database)
        self._cache: OrderedDict[tuple[int, int, int, int], Evaluation] = OrderedDict()
        self._remembered: OrderedDict[tuple[Hashable, ...], Any] = OrderedDict()
        self._lock = Lock()

    def seen_by(self, context: Context) -> Workshop:
        """The same workshop, asked by somebody: stores and caches are shared, and answer for that shop only."""
        seen = copy.copy(self)
        seen.context = context
        return seen

    def remembered(self, record: DesignRecord, about: Hashable, make: Callable[[], T]) -> T:
        """Something worked out of a revision and of what `about` holds, kept for the next who asks the same."""
        key = (self.context.shop_id, record.design_id, record.number, record.edition, about)
        with self._lock:
            if key in self._remembered:
                self._remembered.move_to_end(key)
                found: T = self._remembered[key]
                return found
        made = make()
        with self._lock:
            self._remembered[key] = made
            while len(self._remembered) > REMEMBERED:
                self._remembered.popitem(last=False)
        return made

    def evaluation(self, record: DesignRecord, sweep: bool) -> Evaluation:
        """The evaluation of a revision; with `sweep` the open facts are counted too.

        Raises:
            BrokenDesign: the stored design cannot be judged; it says why and how to go back.
        """
        key = (self.context.shop_id, record.design_id, record.number, record.edition)
        with self._lock:
            found = self._cache.get(key)
        if found is not None and (not sweep or found.measure_first is not None):
            return found
        try:
            made = judged(record.design, sweep, found)
        except OhmackError as error:
            raise BrokenDesign(
                record.address, record.version, record.number, record.parent_number, "", str(error)
            ) from None
        self._keep(key, made)
        self._summarise(record, made)
        return made

    def _summarise(self, record: DesignRecord, evaluation: Evaluation) -> None:
        """Keep what the list of jobs shows; a list that lags is no reason to fail a page."""
        if record.letter != "A":
            return
        try:
            self.summaries.put(self.context, record.design_id, record.number, summary_of(evaluation))
            said = (f.title for f in evaluation.findings if f.severity in (Severity.STOP, Severity.WATCH))
            self.search.enter_findings(self.context, record.job_number, said)
        except StoreError:
            LOG.warning("the summary of %s could not be kept", record.address)

    def summarise_lacking(self, most: int = 10_000) -> None:
        """Make found what nobody finds yet and judge the jobs the list has nothing about, as after an update; runs
        beside the application.
        """
        for part_id in self.search.lacking_parts(self.context, most):
            self.search.enter_part(self.context, part_id, self.shop.part(self.context, part_id))
        for number in self.search.lacking_jobs(self.context, most):
            try:
                for address in self.designs.options(self.context, number):
                    self.designs.enter_anew(self.context, address)
            except StoreError:
                continue
        for address in self.summaries.lacking(self.context, most):
            try:
                self.evaluation(self.designs.load(self.context, address), sweep=True)
            except StoreError:
                continue

    def begin_summaries(self) -> Thread:
        """Start `summarise_lacking` in a thread of its own."""
        thread = Thread(target=self._summarise_quietly, name="summaries", daemon=True)
        thread.start()
        return thread

    def _summarise_quietly(self) -> None:
        try:
            for nobody in shops(self.database):
                self.seen_by(nobody).summarise_lacking()
        except Exception:  # the database may be away or going; the next view of a job makes its summary
            LOG.debug("summaries stopped", exc_info=True)

    def moved(self, record: DesignRecord, since: int) -> Evaluation | None:
        """The evaluation of a revision with what moved since an earlier one; None where there is no such revision."""
        if since == record.number or since < 1:
            return None
        before = self.designs.revision(self.context, record.design_id, since)
        return evaluate(record.design, before=before)

    def moved_between(self, before: DesignRecord, after: Evaluation) -> tuple[Moved, ...]:
        """The key figures that an edit moved, from evaluations at hand; none where the one before could not be
        judged.
        """
        try:
            was = self.evaluation(before, sweep=False).figures
            return what_moved(was, after.results, after.design.policy.length_unit)
        except BrokenDesign:
            return ()

    def share_survey(self, record: DesignRecord) -> None:
        """Hand the survey and the front page of an option to the other options of its job.

        An option whose plan does not go with the new survey keeps its own until it does; Options says so.
        """
        for address in self.designs.options(self.context, record.address):
            if address == record.address:
                continue
            for _ in range(SHARE_TRIES):
                other = self.designs.load(self.context, address)
                mine, theirs = record.design, other.design
                if (theirs.vehicle, theirs.intake, theirs.use) == (mine.vehicle, mine.intake, mine.use):
                    break
                try:
                    design = with_survey(other.design, record.design)
                    self.designs.save(
                        self.context, other.design_id, other.version, design, f"survey as in option {record.letter}"
                    )
                    break
                except Conflict:
                    continue  # somebody was quicker: once more on what is there now
                except BadDocument:
                    break

    def options(self, address: str) -> list[tuple[DesignRecord, Evaluation]]:
        """Every option of a job with its evaluation."""
        records = [self.designs.load(self.context, a) for a in self.designs.options(self.context, address)]
        return [(record, self.evaluation(record, sweep=True)) for record in records]

    def _keep(self, key: tuple[int, int, int, int], evaluation: Evaluation) -> None:
        with self._lock:
            self._cache[key] = evaluation
            self._cache.move_to_end(key)
            while len(self._cache) > CACHE_SIZE:
                self._cache.popitem(last=False)

    def fact_history(self, record: DesignRecord, path: str) -> list[FactChange]:
        """What a fact was before, newest first, and what each change moved."""
        changes: list[FactChange] = []
        rows = {row.number: row for row in self.designs.history(self.context, record.design_id)}
        here = rows.get(record.number)
        for _ in range(HISTORY_DEPTH):
            if here is None or here.parent_number is None:
                break
            after = self.designs.revision(self.context, record.design_id, here.number)
            before = self.designs.revision(self.context, record.design_id, here.parent_number)
            try:
                was, now = get(before, path), get(after, path)
            except UnknownName:
                break
            if was != now:
                moved = evaluate(after, before=before).moved
                changes.append(FactChange(here.created_at.strftime("%Y-%m-%d"), was, now, moved))
            here = rows.get(here.parent_number)
        return changes

    def edit(self, record: DesignRecord, edits: Sequence[Edit], reason: str) -> DesignRecord:
        """Apply edits with what they bring along, judge the result, and save it on top of the record's revision.

        Returns:
            the record as it is now.

        Raises:
            BadDocument, UnknownName: the edits do not fit; nothing was saved.
            OhmackError: the result cannot be judged; nothing was saved.
            Conflict: the design is at another version; nothing was saved.
        """
        design = apply_edits(record.design, edits)
        design = apply_edits(design, brought_along(record.design, design, edits))
        evaluation = judged(design)
        number = self.designs.save(self.context, record.design_id, record.version, design, reason)
        self._keep((self.context.shop_id, record.design_id, number, record.edition), evaluation)
        return record.after(number, design)

    def untouched(self, record: DesignRecord, base: int, edits: Sequence[Edit]) -> bool:
        """Whether what some edits change stands as it stood in an earlier revision, so that both changes can live
        together.
        """
        if not 0 < base <= record.number:
            return False
        before = self.designs.revision(self.context, record.design_id, base)
        return all(edit.op == "add" or _same(before, record.design, edit.path) for edit in edits)


def _same(before: Design, now: Design, path: str) -> bool:
    try:
        return bool(get(before, path) == get(now, path))
    except UnknownName:
        return False
