"""Steps that need each other: an order, the longest chain, and who does what when."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import networkx as nx

from ohmack.core.errors import OhmackError
from ohmack.core.record import record


class Circle(OhmackError):
    """Steps that need each other in a circle."""

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__(f"These need each other in a circle: {' → '.join(names)}.")
        self.names = tuple(names)


@record
class Task:
    """A step: what must be done before it, how long it takes, how many hands it wants."""

    id: str
    needs: tuple[str, ...] = ()
    minutes: float = 0.0
    people: int = 1


@record
class Placed:
    """A step in time: when it begins and ends, and in whose lanes."""

    id: str
    start_min: float
    end_min: float
    lanes: tuple[int, ...]


def graph_of(tasks: Sequence[Task]) -> nx.DiGraph[str]:
    """Tasks as a graph, an arrow from what is needed to what needs it; what nobody has on the list is no need.

    Raises:
        Circle: some of them need each other.
    """
    graph: nx.DiGraph[str] = nx.DiGraph()
    known = {task.id for task in tasks}
    graph.add_nodes_from(known)
    graph.add_edges_from((need, task.id) for task in tasks for need in task.needs if need in known)
    if not nx.is_directed_acyclic_graph(graph):
        raise Circle([a for a, _ in nx.find_cycle(graph)])
    return graph


def all_needed(tasks: Sequence[Task], name: str) -> frozenset[str]:
    """What a step needs, by whatever way.

    Parameters:
        tasks: all steps; they may need each other in a circle.
        name: the step.

    Returns:
        ids; its own too where it needs itself.
    """
    needs = {task.id: task.needs for task in tasks}
    reached, open_ones = set[str](), list(needs.get(name, ()))
    while open_ones:
        one = open_ones.pop()
        if one not in reached:
            reached.add(one)
            open_ones += needs.get(one, ())
    return frozenset(reached)


def in_order(tasks: Sequence[Task]) -> list[str]:
    """An order in which nothing comes before what it needs, else as near to the given order as may be.

    Parameters:
        tasks: the steps, in the order they would be liked.

    Returns:
        their ids.

    Raises:
        Circle: some of them need each other.

    Source: networkx, lexicographical topological sort.
    """
    rank = {task.id: n for n, task in enumerate(tasks)}
    return list(nx.lexicographical_topological_sort(graph_of(tasks), key=lambda name: rank[name]))


def longest_chain(tasks: Sequence[Task]) -> tuple[str, ...]:
    """The chain of steps that need each other and take longest: no number of hands is quicker.

    Parameters:
        tasks: the steps.

    Returns:
        their ids, first to last; empty where there is none.

    Raises:
        Circle: some of them need each other.

    Method: the longest way through the graph, by the time of the steps. Source: critical path method, textbook.
    """
    if not tasks:
        return ()
    graph = graph_of(tasks)
    minutes = {task.id: task.minutes for task in tasks}
    best: dict[str, tuple[float, str | None]] = {}
    for name in nx.topological_sort(graph):
        before = max(graph.predecessors(name), key=lambda n: best[n][0], default=None)
        best[name] = ((best[before][0] if before is not None else 0.0) + minutes[name], before)
    chain: list[str] = []
    here: str | None = max(best, key=lambda n: best[n][0])
    while here is not None:
        chain.append(here)
        here = best[here][1]
    return tuple(reversed(chain))


def placed(tasks: Sequence[Task], people: int) -> tuple[Placed, ...]:
    """Who does what when: each takes the next step that may be begun, the one with the longest way to the end first.

    Parameters:
        tasks: the steps.
        people: how many work, 1 up; a step that wants more waits for all there are.

    Returns:
        every step with its times [min], in the order they begin.

    Raises:
        Circle: some of them need each other.

    Method: list scheduling by the length of the way to the end. Source: textbook; not always the shortest there is.
    """
    graph = graph_of(tasks)
    by_name = {task.id: task for task in tasks}
    rank = {task.id: n for n, task in enumerate(tasks)}
    to_end: dict[str, float] = {}
    for name in reversed(list(nx.topological_sort(graph))):
        to_end[name] = by_name[name].minutes + max((to_end[n] for n in graph.successors(name)), default=0.0)
    free_min = [0.0] * max(1, people)
    hands = {name: min(task.people, len(free_min)) for name, task in by_name.items()}
    waits = {name: graph.in_degree(name) for name in graph}
    ready = {name: 0.0 for name, many in waits.items() if not many}  # when what each needs is done
    done: dict[str, Placed] = {}
    while ready:
        free = sorted(free_min)
        start, _, _, name = min((max(free[hands[n] - 1], t), -to_end[n], rank[n], n) for n, t in ready.items())
        del ready[name]
        # of those who are free by then, whoever became free last: the others stay free for what comes sooner
        idle = sorted((i for i, t in enumerate(free_min) if t <= start + 1e-9), key=lambda i: -free_min[i])
        lanes, end = tuple(sorted(idle[: hands[name]])), start + by_name[name].minutes
        for lane in lanes:
            free_min[lane] = end
        done[name] = Placed(name, start, end, lanes)
        for later in graph.successors(name):
            waits[later] -= 1
            if not waits[later]:
                ready[later] = max(done[p].end_min for p in graph.predecessors(later))
    return tuple(sorted(done.values(), key=lambda p: (p.start_min, rank[p.id])))


def all_before(tasks: Sequence[Task]) -> Mapping[str, frozenset[str]]:
    """By step, everything that has to be done before it, near and far."""
    graph = graph_of(tasks)
    return {name: frozenset(nx.ancestors(graph, name)) for name in graph}
