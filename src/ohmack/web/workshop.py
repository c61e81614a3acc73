"""One job on the bench: load, edit, evaluate. The only place where routes meet the core."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from threading import Lock
from typing import Any

from ohmack.core.changes import compare
from ohmack.core.document import Design, Fact
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.paths import get
from ohmack.core.errors import BadDocument, UnknownName
from ohmack.core.evaluate import evaluate
from ohmack.core.evaluation import Evaluation, Moved
from ohmack.core.options import with_survey
from ohmack.store.database import Conflict, Database
from ohmack.store.designs import DesignRecord, DesignStore, JobRow
from ohmack.store.photos import PhotoStore
from ohmack.store.shop import ShopStore
from ohmack.store.templates import TemplateStore

CACHE_SIZE = 64
HISTORY_DEPTH = 60
SHARE_TRIES = 3


@dataclass(frozen=True)
class FactChange:
    """One change of a fact: what it was, what it became, which figures moved."""

    when: str
    before: Fact[Any]
    after: Fact[Any]
    moved: tuple[Moved, ...]


class Workshop:
    """Stores and a small cache of evaluations; revisions are immutable, so the cache can never be wrong."""

    def __init__(self, database: Database) -> None:
        self.database = database
        self.designs = DesignStore(database)
        self.shop = ShopStore(database)
        self.templates = TemplateStore(database)
        self.photos = PhotoStore(database)
        self._cache: OrderedDict[tuple[int, int], Evaluation] = OrderedDict()
        self._lock = Lock()

    def evaluation(self, record: DesignRecord | JobRow, sweep: bool) -> Evaluation:
        """The evaluation of a revision; with `sweep` the open facts are counted too."""
        key = (record.design_id, record.number)
        with self._lock:
            found = self._cache.get(key)
        if found is not None and (not sweep or found.measure_first is not None):
            return found
        made = evaluate(record.design, sweep_facts=sweep)
        self._keep(key, made)
        return made

    def moved(self, record: DesignRecord, since: int) -> Evaluation | None:
        """The evaluation of a revision with what moved since an earlier one; None where there is no such revision."""
        if since == record.number or since < 1:
            return None
        before = self.designs.revision(record.design_id, since)
        return evaluate(record.design, before=before)

    def moved_between(self, before: DesignRecord, after: Evaluation) -> tuple[Moved, ...]:
        """The key figures that an edit moved, from evaluations at hand."""
        return compare(self.evaluation(before, sweep=False).figures, after.figures)

    def share_survey(self, record: DesignRecord) -> None:
        """Hand the survey and the front page of an option to the other options of its job.

        An option whose plan does not go with the new survey keeps its own until it does; Options says so.
        """
        for address in self.designs.options(record.address):
            if address == record.address:
                continue
            for _ in range(SHARE_TRIES):
                other = self.designs.load(address)
                if (other.design.vehicle, other.design.intake) == (record.design.vehicle, record.design.intake):
                    break
                try:
                    design = with_survey(other.design, record.design)
                    self.designs.save(other.design_id, other.version, design, f"survey as in option {record.letter}")
                    break
                except Conflict:
                    continue  # somebody was quicker: once more on what is there now
                except BadDocument:
                    break

    def options(self, address: str) -> list[tuple[DesignRecord, Evaluation]]:
        """Every option of a job with its evaluation."""
        records = [self.designs.load(a) for a in self.designs.options(address)]
        return [(record, self.evaluation(record, sweep=True)) for record in records]

    def _keep(self, key: tuple[int, int], evaluation: Evaluation) -> None:
        with self._lock:
            self._cache[key] = evaluation
            self._cache.move_to_end(key)
            while len(self._cache) > CACHE_SIZE:
                self._cache.popitem(last=False)

    def fact_history(self, record: DesignRecord, path: str) -> list[FactChange]:
        """What a fact was before, newest first, and what each change moved."""
        changes: list[FactChange] = []
        rows = {row.number: row for row in self.designs.history(record.design_id)}
        here = rows.get(record.number)
        for _ in range(HISTORY_DEPTH):
            if here is None or here.parent_number is None:
                break
            after = self.designs.revision(record.design_id, here.number)
            before = self.designs.revision(record.design_id, here.parent_number)
            try:
                was, now = get(before, path), get(after, path)
            except UnknownName:
                break
            if was != now:
                moved = evaluate(after, before=before).moved
                changes.append(FactChange(here.created_at.strftime("%Y-%m-%d"), was, now, moved))
            here = rows.get(here.parent_number)
        return changes

    def edit(self, record: DesignRecord, version: int, edits: Sequence[Edit], reason: str) -> Design:
        """Apply edits and save them as a new revision.

        Raises:
            BadDocument, UnknownName: the edits do not fit; nothing was saved.
            Conflict: the design is at another version; nothing was saved.
        """
        design = apply_edits(record.design, edits)
        self.designs.save(record.design_id, version, design, reason)
        return design
