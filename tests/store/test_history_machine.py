"""Undo, redo and branches against a plain model, on a real database, by random walks."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Conflict, Database
from ohmack.store.designs import DesignStore


def priced(design: Design, price: int) -> Design:
    return apply_edits(design, [Edit(path="parts/amp/price", value=float(price))])


def price_of(design: Design) -> float | None:
    return next(p.price for p in design.parts if p.id == "amp")


class Node:
    """One revision of the model: a tree, newest child last."""

    def __init__(self, price: float | None, parent: Node | None) -> None:
        self.price, self.parent, self.children = price, parent, list[Node]()
        if parent:
            parent.children.append(self)


def machine(database: Database, estate: Design) -> type[RuleBasedStateMachine]:
    class Walk(RuleBasedStateMachine):
        @initialize()
        def open(self) -> None:
            self.one, self.other = DesignStore(database), DesignStore(database)  # two processes' stores
            self.number = self.one.open_job(BUILT_IN, "Walk", "", "Walk", estate)
            self.here = Node(price_of(estate), None)
            self.count = 1
            self.stale: Any = self.one.load(BUILT_IN, self.number)

        @rule(price=st.integers(0, 999), second=st.booleans())
        def save(self, price: int, second: bool) -> None:
            store = self.other if second else self.one
            record = store.load(BUILT_IN, self.number)
            self.stale = record
            store.save(BUILT_IN, record.design_id, record.version, priced(record.design, price), f"{price}")
            self.here = Node(float(price), self.here)
            self.count += 1

        @rule(forward=st.booleans(), second=st.booleans())
        def step(self, forward: bool, second: bool) -> None:
            store = self.other if second else self.one
            record = store.load(BUILT_IN, self.number)
            target = (self.here.children[-1] if self.here.children else None) if forward else self.here.parent
            assert store.step(BUILT_IN, record.design_id, record.version, forward) == (target is not None)
            self.here = target or self.here

        @rule(price=st.integers(0, 999))
        def save_from_a_stale_tab(self, price: int) -> None:
            record = self.one.load(BUILT_IN, self.number)
            if self.stale.version != record.version:
                with pytest.raises(Conflict):
                    self.one.save(BUILT_IN, record.design_id, self.stale.version, priced(record.design, price), "late")

        @invariant()
        def agrees(self) -> None:
            for store in (self.one, self.other):
                record = store.load(BUILT_IN, self.number)
                assert price_of(record.design) == self.here.price
                assert (record.parent_number is None) == (self.here.parent is None)
                assert (record.child_number is None) == (not self.here.children)
            assert len(self.one.history(BUILT_IN, record.design_id)) == self.count

    return Walk


def test_history_is_a_tree_and_nothing_is_lost(database: Database, estate: Design) -> None:
    profile = settings(max_examples=12, stateful_step_count=18, deadline=None, suppress_health_check=list(HealthCheck))
    run_state_machine_as_test(machine(database, estate), settings=profile)
