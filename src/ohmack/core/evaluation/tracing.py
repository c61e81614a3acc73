"""Which section and which rule looks at what, so that after one changed fact only those are worked out anew whose
facts, figures or sections are no longer what they were.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator
from dataclasses import dataclass, field, fields, is_dataclass
from enum import Enum
from functools import cache
from types import FunctionType, NoneType
from typing import Any, TypeVar

from pydantic import BaseModel

from ohmack.core.document import Design, Fact
from ohmack.core.document.looking import listing, look
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.figure import Book, Figure, Missing, Term
from ohmack.core.figures.finding import Finding
from ohmack.core.lazy import lazy
from ohmack.core.physics.conductors import Conductor
from ohmack.core.reference import Source

NEVER_SWEPT = frozenset(
    {"use"}
)  # what a cavity is has no range to vary over; 500 of them would cost more than they say
LAZIES = frozenset(name for name, value in vars(Results).items() if isinstance(value, lazy))
T = TypeVar("T")
K = TypeVar("K")
V = TypeVar("V")
NOTHING: frozenset[str] = frozenset()


@dataclass
class Frame:
    """What one section, lazy value or rule looked at while it was worked out."""

    name: str
    facts: set[str] = field(default_factory=set)
    frames: set[str] = field(default_factory=set)  # sections and lazy values as wholes
    entries: set[tuple[str, Any]] = field(default_factory=set)  # of sections that are kept by name: (section, key)
    figures: set[str] = field(default_factory=set)
    all_figures: bool = False
    holds: frozenset[str] = frozenset()  # facts of models its value refers to: later readers must find them new


class Readers:
    """The frames turned round: for each thing that may change, the names of those that looked at it."""

    def __init__(self, frames: Iterable[Frame]) -> None:
        self.of_facts: dict[str, set[str]] = {}  # looked at, or referred to by what was worked out
        self.of_frames: dict[str, set[str]] = {}
        self.of_entries: dict[tuple[str, Any], set[str]] = {}
        self.of_figures: dict[str, set[str]] = {}
        self.of_any_figure: set[str] = set()
        for frame in frames:
            for path in frame.facts | frame.holds:
                self.of_facts.setdefault(path, set()).add(frame.name)
            for name in frame.frames:
                self.of_frames.setdefault(name, set()).add(frame.name)
            for entry in frame.entries:
                self.of_entries.setdefault(entry, set()).add(frame.name)
            for figure in frame.figures:
                self.of_figures.setdefault(figure, set()).add(frame.name)
            if frame.all_figures:
                self.of_any_figure.add(frame.name)


class Changed:
    """Who looked at something that is no longer what it was, while an evaluation is followed from one changed fact."""

    def __init__(self, path: str, readers: Readers) -> None:
        self._readers = readers
        self.anew = set(readers.of_facts.get(path, NOTHING))  # the frames that are to be worked out anew

    def note_frame(self, name: str) -> None:
        """Note that a section or lazy value is another as a whole."""
        self.anew |= self._readers.of_frames.get(name, NOTHING)

    def note(self, name: str, was: Any, now: Any) -> bool:
        """Note what differs between what a section was and what it is now; False where nothing does."""
        if type(was) is type(now) is dict:
            different = {k for k in was.keys() & now.keys() if not alike(was[k], now[k])} | (was.keys() ^ now.keys())
            if not different and list(was) == list(now):
                return False
            for key in different:
                self.anew |= self._readers.of_entries.get((name, key), NOTHING)
        elif alike(was, now):
            return False
        self.note_frame(name)  # for who looked at all of it
        return True

    def note_figures(self, was: dict[str, Figure], now: dict[str, Figure]) -> None:
        """Note which figures of a section differ."""
        different = [name for name in was.keys() | now.keys() if was.get(name) != now.get(name)]
        for name in different:
            self.anew |= self._readers.of_figures.get(name, NOTHING)
        if different:
            self.anew |= self._readers.of_any_figure


def alike(one: Any, other: Any) -> bool:
    """Whether two values are equal as far as they can tell; what cannot be compared is not."""
    try:
        return bool(one == other)
    except ValueError:  # arrays
        return False


# What refers to no fact: plain values, and records of plain values.
LEAVES = frozenset((NoneType, str, int, float, bool, Figure, Term, Missing, Source, Finding, Conductor))


@cache
def _field_names(kind: Hashable) -> tuple[str, ...]:
    return tuple(f.name for f in fields(kind))  # type: ignore[arg-type]


class _Held:
    """The paths of the watched facts that a value refers to, through dataclasses, models and containers."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[Any, frozenset[str]]] = {}  # the object is kept, so that its id stays its own

    def of(self, value: Any) -> frozenset[str]:
        """What a value refers to."""
        kind = type(value)
        if kind in LEAVES or isinstance(value, (Enum, type, FunctionType)):
            return NOTHING
        known = self._known.get(id(value))
        if known is not None:
            return known[1]
        if kind is _Watched:
            found = frozenset((object.__getattribute__(value, "_path"),))
        else:
            self._known[id(value)] = (value, NOTHING)  # for what refers to itself
            found = NOTHING
            for inner in self._inside(value):
                if inner is not None and (below := self.of(inner)):
                    found = found | below
        self._known[id(value)] = (value, found)
        return found

    @staticmethod
    def _inside(value: Any) -> Iterable[Any]:
        if isinstance(value, (list, tuple, set, frozenset)):
            return value
        if isinstance(value, (Design, Traces)):  # a design is never kept: it is the one of today
            return ()
        if isinstance(value, BaseModel):
            return [value.__dict__[name] for name in type(value).model_fields]
        if isinstance(value, dict):
            return dict.values(value)
        if is_dataclass(value):
            return [getattr(value, name) for name in _field_names(value.__class__)]
        return list(vars(value).values()) if hasattr(value, "__dict__") else ()


class Traces:
    """The frames of one traced evaluation."""

    def __init__(self) -> None:
        self.frames: dict[str, Frame] = {}  # what a frame used was done before it
        self.owners: dict[str, str] = {}  # figure id -> the frame that filed it
        self._stack: list[Frame] = []
        self._held = _Held()

    def frame(self, name: str, make: Callable[[], T]) -> T:
        """Work something out in a frame of its own."""
        done = Frame(name)
        self._stack.append(done)
        try:
            with listing(done.facts):
                value = make()
        finally:
            self.frames[self._stack.pop().name] = done
        done.holds = self._held.of(value)
        return value

    @property
    def now(self) -> Frame | None:
        """The innermost frame under way."""
        return self._stack[-1] if self._stack else None

    @property
    def read(self) -> frozenset[str]:
        """The paths of every fact anything looked at."""
        return frozenset(path for frame in self.frames.values() for path in frame.facts)


class _Watched(Fact[Any]):
    """A fact that notes when its value is read."""

    def __getattribute__(self, name: str) -> Any:
        if name == "value":
            look(object.__getattribute__(self, "_path"))
        return super().__getattribute__(name)


def watched(design: Design) -> Design:
    """A copy of a design whose facts note who reads them.

    Parameters:
        design: the design; it stays as it is.

    Returns:
        the copy.
    """
    copied: Design = _copy(design, "")
    return copied


def _copy(here: Any, path: str) -> Any:
    if isinstance(here, Fact):
        if path.rsplit("/", 1)[-1] in NEVER_SWEPT:
            return here
        fact = _Watched.model_construct(**here.__dict__)
        object.__setattr__(fact, "_path", path)
        return fact
    if isinstance(here, BaseModel):
        changed = {}
        for name in type(here).model_fields:
            value = getattr(here, name)
            if isinstance(value, (BaseModel, tuple)):
                new = _copy(value, f"{path}/{name}" if path else name)
                if new is not value:
                    changed[name] = new
        return here.model_copy(update=changed) if changed else here
    if isinstance(here, tuple):
        items = tuple(
            _copy(item, f"{path}/{getattr(item, 'id', number)}") if isinstance(item, BaseModel) else item
            for number, item in enumerate(here)
        )
        return items if any(a is not b for a, b in zip(items, here, strict=True)) else here
    return here


class _Noting(dict[K, V]):
    """A dict that notes who reads which of its entries, and who reads all of them."""

    def __init__(self, held: dict[K, V], traces: Traces) -> None:
        super().__init__(held)
        self._traces = traces

    def _one(self, frame: Frame, key: object) -> None:
        """Note that a frame reads an entry, or looks whether it is there."""
        raise NotImplementedError

    def _every(self, frame: Frame) -> None:
        """Note that a frame reads all of them."""
        raise NotImplementedError

    def _noted(self, key: object) -> None:
        if (frame := self._traces.now) is not None:
            self._one(frame, key)

    def _all(self) -> None:
        if (frame := self._traces.now) is not None:
            self._every(frame)

    def __getitem__(self, key: K) -> V:
        self._noted(key)
        return super().__getitem__(key)

    def __contains__(self, key: object) -> bool:
        self._noted(key)
        return super().__contains__(key)

    def get(self, key: K, default: Any = None) -> Any:
        """As of a dict, noted."""
        self._noted(key)
        return super().get(key, default)

    def keys(self) -> Any:
        """As of a dict, noted."""
        self._all()
        return super().keys()

    def values(self) -> Any:
        """As of a dict, noted."""
        self._all()
        return super().values()

    def items(self) -> Any:
        """As of a dict, noted."""
        self._all()
        return super().items()

    def __iter__(self) -> Iterator[K]:
        self._all()
        return super().__iter__()

    def __len__(self) -> int:
        self._all()
        return super().__len__()


class _Figures(_Noting[str, Figure]):
    """Figures that note who reads and who files them."""

    def _one(self, frame: Frame, key: object) -> None:
        owner = self._traces.owners.get(str(key))
        if owner is None:
            frame.all_figures = True  # whether it is there hangs on everything
        elif owner != frame.name:
            frame.figures.add(str(key))

    def _every(self, frame: Frame) -> None:
        frame.all_figures = True

    def __setitem__(self, key: str, figure: Figure) -> None:
        if (frame := self._traces.now) is not None:
            self._traces.owners[key] = frame.name
        super().__setitem__(key, figure)


class _Entries(_Noting[Any, Any]):
    """What a section keeps by name."""

    def __init__(self, held: dict[Any, Any], section: str, traces: Traces) -> None:
        super().__init__(held, traces)
        self._section = section

    def _one(self, frame: Frame, key: object) -> None:
        frame.entries.add((self._section, key))

    def _every(self, frame: Frame) -> None:
        frame.frames.add(self._section)


class TracedBook(Book):
    """A book whose figures note who reads and who files them."""

    def __init__(self, design: Design, traces: Traces) -> None:
        super().__init__(design, _Figures({}, traces))


class TracedResults(Results):
    """Results that note who reads which section."""

    def __init__(self, book: Book, traces: Traces) -> None:
        object.__setattr__(self, "_traces", traces)
        super().__init__(book)

    def put(self, name: str, make: Callable[[], Any]) -> None:
        """Work a section out in a frame of its own."""
        traces: Traces = object.__getattribute__(self, "_traces")
        value = traces.frame(name, make)
        setattr(self, name, _Entries(value, name, traces) if type(value) is dict else value)

    def __getattribute__(self, name: str) -> Any:
        traces = object.__getattribute__(self, "_traces")
        frame = traces.now
        if frame is not None and (name in traces.frames or name in LAZIES):
            if name in LAZIES and name not in object.__getattribute__(self, "__dict__"):
                traces.frame(name, lambda: object.__getattribute__(self, name))
            if frame.name != name and type(value := object.__getattribute__(self, name)) is not _Entries:
                frame.frames.add(name)
                return value
        return object.__getattribute__(self, name)
