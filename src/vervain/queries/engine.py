"""A memory of answers that knows what each was read from.

A query is a pure function of a database. Its answer is kept with the list of what it read: inputs,
and other queries. When the inputs move on, only answers whose reads changed are worked out again,
and an answer that comes out equal stops the change from spreading. What raises is kept in the same
way, and raised again until something that it read changes.

A database belongs to one thread at a time.
"""

import inspect
from collections import Counter
from collections.abc import Callable, Collection, Hashable
from functools import cache
from typing import Any, Concatenate, Generic, ParamSpec, TypeVar, cast

P = ParamSpec("P")
R = TypeVar("R")
S = TypeVar("S")
K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
D = TypeVar("D", bound="Database[Any]")
Key = tuple[Any, ...]

# What nobody asked for through so many moves, and is doubtful or read by nobody, is forgotten.
KEPT_MOVES = 40
SWEEP_EVERY = 20


class Input(Generic[S, K, V]):
    """Something that is read from the source itself: its name, and how. `differs` gives the keys
    whose values may differ between two sources; without it every one that was read is read again.
    """

    def __init__(
        self,
        name: str,
        read: Callable[[S, K], V],
        differs: Callable[[S, S], Collection[K]] | None = None,
    ) -> None:
        self.name, self.read, self.differs = name, read, differs

    def __repr__(self) -> str:
        return self.name


class QueryCycle(Exception):  # noqa: N818 - it names the queries
    """Queries that ask each other in a circle."""

    def __init__(self, names: list[str]) -> None:
        super().__init__("queries ask each other in a circle: " + " → ".join(names))


class CachedResult:
    """A kept answer: its value or what it raised, what it read, when it last changed and was last
    found to hold.
    """

    __slots__ = ("changed_at", "checked_at", "error", "reads", "trace", "value")

    def __init__(
        self, value: Any, error: Exception | None, reads: tuple[Key, ...], at: int
    ) -> None:
        self.value, self.error, self.reads = value, error, reads
        self.trace = error.__traceback__ if error is not None else None
        self.changed_at = self.checked_at = at


class Database(Generic[S]):
    """The answers about one source, and the memory that carries over to the next."""

    def __init__(self, source: S) -> None:
        self._source = source
        self._at = 0
        self._inputs: dict[Input[S, Any, Any], dict[Any, Any]] = {}
        self._input_changed_at: dict[Key, int] = {}
        self._results: dict[Key, CachedResult] = {}
        self._readers: dict[Key, set[Key]] = {}
        self._doubtful: set[Key] = set()
        # What was read once, by somebody who no longer does.
        self._left: set[Key] = set()
        self._frames: list[dict[Key, None]] = []
        self._under_way: dict[Key, None] = {}
        self.run_counts: Counter[Callable[..., Any]] = Counter()
        # Called before each answer is worked out: by what lets others go first.
        self.before_each: Callable[[], object] | None = None

    def _read(self, source: Input[S, K, V], key: K) -> V:
        """An input's value; whoever is being worked out has read it."""
        full = (source, key)
        if self._frames:
            self._frames[-1][full] = None
        values = self._inputs.setdefault(source, {})
        if key not in values:
            values[key] = source.read(self._source, key)
            self._input_changed_at[full] = self._at
        return cast(V, values[key])

    def _move(self, source: S) -> None:
        """Goes on to another source, keeping every answer that still holds."""
        before, self._source = self._source, source
        self._at += 1
        waiting: list[Key] = []
        for kind, values in self._inputs.items():
            keys = values if kind.differs is None else kind.differs(before, source)
            for key in [key for key in keys if key in values]:
                new, old = kind.read(source, key), values[key]
                if new is not old and new != old:
                    values[key] = new
                    full = (kind, key)
                    self._input_changed_at[full] = self._at
                    waiting.append(full)
        while waiting:
            for reader in self._readers.get(waiting.pop(), ()):
                if reader not in self._doubtful:
                    self._doubtful.add(reader)
                    waiting.append(reader)
        if self._at % SWEEP_EVERY == 0:
            self._sweep()

    def forget_all(self) -> None:
        """Forgets every answer; for what no input tells of, such as another table."""
        for memory in (self._inputs, self._input_changed_at, self._results, self._readers):
            memory.clear()
        self._doubtful.clear()
        self._left.clear()

    def _sweep(self) -> None:
        """Forgets answers that are doubtful, or left by those who read them, and were not asked for
        in a long while, and inputs and answers that nobody reads any more because of that.
        """
        oldest = self._at - KEPT_MOVES
        self._left = {
            key for key in self._left if key in self._results and not self._readers.get(key)
        }
        for key in [key for key in self._left if self._results[key].checked_at < oldest]:
            self._forget(key)
        for key in [key for key in self._doubtful if self._results[key].checked_at < oldest]:
            if not self._readers.get(key):
                self._forget(key)

    def _forget(self, key: Key) -> None:
        waiting = [key]
        while waiting:
            gone = waiting.pop()
            self._readers.pop(gone, None)
            self._left.discard(gone)
            self._doubtful.discard(gone)
            result = self._results.pop(gone, None)
            if result is None:
                if isinstance(gone[0], Input):
                    self._inputs.get(gone[0], {}).pop(gone[1], None)
                self._input_changed_at.pop(gone, None)
                continue
            for read in result.reads:
                readers = self._readers.get(read)
                if readers is not None:
                    readers.discard(gone)
                    is_old = isinstance(read[0], Input) or read in self._doubtful
                    if not readers and is_old:
                        waiting.append(read)
                    elif not readers:
                        self._left.add(read)

    def ask(self, function: Callable[..., R], *arguments: Hashable) -> R:
        """The answer of a query, worked out only if something it read has changed. Raises what the
        query raises, and `QueryCycle` where queries ask each other in a circle.
        """
        key = (function, *arguments)
        if self._frames:
            self._frames[-1][key] = None
        result = self._results.get(key)
        if result is None:
            result = self._compute(key)
        elif key in self._doubtful:
            result = self._validate(key, result)
        else:
            result.checked_at = self._at
        if result.error is not None:
            # From where it first came: each raising would add its own frames to those before.
            raise result.error.with_traceback(result.trace)
        return cast(R, result.value)

    def _validate(self, key: Key, result: CachedResult) -> CachedResult:
        """The result, if nothing that it read changed since it was checked; else anew."""
        for read in result.reads:
            changed_at = self._input_changed_at.get(read)
            if changed_at is None:
                below = self._results.get(read)
                if below is not None and read in self._doubtful:
                    below = self._validate(read, below)
                if below is None:
                    return self._compute(key)
                changed_at = below.changed_at
            if changed_at > result.checked_at:
                return self._compute(key)
        result.checked_at = self._at
        self._doubtful.discard(key)
        return result

    def _compute(self, key: Key) -> CachedResult:
        if key in self._under_way:
            names = [f"{k[0].__name__}{k[1:]}" for k in self._under_way]
            raise QueryCycle([*names[names.index(f"{key[0].__name__}{key[1:]}") :], names[-1]])
        if self.before_each is not None:
            self.before_each()
        frame: dict[Key, None] = {}
        self._frames.append(frame)
        self._under_way[key] = None
        value, error = None, None
        try:
            value = key[0](self, *key[1:])
        except QueryCycle:
            raise
        except Exception as raised:
            error = raised
        finally:
            self._frames.pop()
            del self._under_way[key]
        self.run_counts[key[0]] += 1
        old = self._results.get(key)
        if old is not None:
            for read in old.reads:
                if read not in frame and read in self._readers:
                    self._readers[read].discard(key)
                    if not self._readers[read]:
                        self._left.add(read)
        for read in frame:
            self._readers.setdefault(read, set()).add(key)
        result = CachedResult(value, error, tuple(frame), self._at)
        if old is not None and error is None and old.error is None and old.value == value:
            result.value, result.changed_at = old.value, old.changed_at
        self._results[key] = result
        self._doubtful.discard(key)
        return result


@cache
def _signature(function: Callable[..., Any]) -> inspect.Signature:
    return inspect.signature(function)


def query(function: Callable[Concatenate[D, P], R]) -> Callable[Concatenate[D, P], R]:
    """Makes a function of a database a kept query; its arguments must be hashable. Given by name,
    they are put in their place.
    """

    def asked(database: D, /, *arguments: P.args, **keywords: P.kwargs) -> R:
        if keywords:
            bound = _signature(function).bind(database, *arguments, **keywords)
            bound.apply_defaults()
            return database.ask(function, *bound.args[1:])
        return database.ask(function, *arguments)

    asked.__name__ = function.__name__
    asked.__qualname__ = function.__qualname__
    asked.__doc__ = function.__doc__
    asked.__module__ = function.__module__
    return asked
