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
from types import TracebackType
from typing import Any, Concatenate, Generic, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")
S = TypeVar("S")
K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
D = TypeVar("D", bound="Database[Any]")

# An answer that was not worked out yet has changed before every move.
NEVER = -1

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


class InputValue:
    """A value that was read from the source: when it last changed, and which answers read it."""

    __slots__ = ("changed_at", "key", "readers", "source", "value")
    doubtful = False

    def __init__(self, source: Input[Any, Any, Any], key: Hashable, value: Any, at: int) -> None:
        self.source, self.key, self.value, self.changed_at = source, key, value, at
        self.readers: set[CachedResult] = set()


class CachedResult:
    """A kept answer: its value or what it raised, what it read and who read it, when it last
    changed and was last found to hold, whether something that it read may have changed since, and
    whether everybody who read it no longer does.
    """

    __slots__ = (
        "arguments", "changed_at", "checked_at", "doubtful", "error", "function", "left",
        "readers", "reads", "trace", "under_way", "value",
    )  # fmt: skip

    def __init__(self, function: Callable[..., Any], arguments: tuple[Hashable, ...]) -> None:
        self.function, self.arguments = function, arguments
        self.value: Any = None
        self.error: Exception | None = None
        self.trace: TracebackType | None = None
        self.reads: tuple[Read, ...] = ()
        self.readers: set[CachedResult] = set()
        self.changed_at = self.checked_at = NEVER
        self.doubtful = self.left = self.under_way = False

    @property
    def name(self) -> str:
        """What was asked, as it is called."""
        return f"{self.function.__name__}{self.arguments}"


Read = InputValue | CachedResult


class Database(Generic[S]):
    """The answers about one source, and the memory that carries over to the next."""

    def __init__(self, source: S) -> None:
        self._source = source
        self._at = 0
        self._inputs: dict[Input[S, Any, Any], dict[Any, InputValue]] = {}
        self._results: dict[Callable[..., Any], dict[tuple[Hashable, ...], CachedResult]] = {}
        # What each answer that is being worked out has read until now, the last of them innermost.
        self._frames: list[dict[Read, None]] = []
        self._under_way: list[CachedResult] = []
        self.run_counts: Counter[Callable[..., Any]] = Counter()
        # Called before each answer is worked out: by what lets others go first.
        self.before_each: Callable[[], object] | None = None

    def _read(self, source: Input[S, K, V], key: K) -> V:
        """An input's value; whoever is being worked out has read it."""
        try:
            read = self._inputs[source][key]
        except KeyError:
            read = InputValue(source, key, source.read(self._source, key), self._at)
            self._inputs.setdefault(source, {})[key] = read
        if self._frames:
            self._frames[-1][read] = None
        value: V = read.value
        return value

    def _move(self, source: S) -> None:
        """Goes on to another source, keeping every answer that still holds."""
        before, self._source = self._source, source
        self._at += 1
        waiting: list[Read] = []
        for kind, values in self._inputs.items():
            keys = values if kind.differs is None else kind.differs(before, source)
            for key in keys:
                read = values.get(key)
                if read is None:
                    continue
                new, old = kind.read(source, key), read.value
                if new is not old and new != old:
                    read.value, read.changed_at = new, self._at
                    waiting.append(read)
        while waiting:
            for reader in waiting.pop().readers:
                if not reader.doubtful:
                    reader.doubtful = True
                    waiting.append(reader)
        if self._at % SWEEP_EVERY == 0:
            self._sweep()

    def forget_all(self) -> None:
        """Forgets every answer; for what no input tells of, such as another table."""
        self._inputs.clear()
        self._results.clear()

    def kept(self) -> int:
        """How many answers and values of inputs are kept."""
        return sum(map(len, self._results.values())) + sum(map(len, self._inputs.values()))

    def _sweep(self) -> None:
        """Forgets answers that are doubtful, or left by those who read them, and were not asked for
        in a long while, and what nobody reads any more because of that.
        """
        oldest = self._at - KEPT_MOVES
        for results in self._results.values():
            for result in list(results.values()):
                is_old = (result.doubtful or result.left) and result.checked_at < oldest
                if is_old and not result.readers:
                    self._forget(result)
        for values in self._inputs.values():
            for key in [key for key, read in values.items() if not read.readers]:
                del values[key]

    def _forget(self, result: CachedResult) -> None:
        waiting = [result]
        while waiting:
            gone = waiting.pop()
            self._results[gone.function].pop(gone.arguments, None)
            for read in gone.reads:
                self._leave(read, gone)
                if not read.readers and read.doubtful and isinstance(read, CachedResult):
                    waiting.append(read)

    def _leave(self, read: Read, reader: CachedResult) -> None:
        """A reader no longer reads this."""
        read.readers.discard(reader)
        if not read.readers and isinstance(read, CachedResult):
            read.left = True

    def ask(self, function: Callable[..., R], *arguments: Hashable) -> R:
        """The answer of a query, worked out only if something it read has changed. Raises what the
        query raises, and `QueryCycle` where queries ask each other in a circle.
        """
        return self.answer(function, arguments)

    def answer(self, function: Callable[..., R], arguments: tuple[Hashable, ...]) -> R:
        """As `ask`, with the arguments as they are kept."""
        results = self._results.get(function)
        if results is None:
            results = self._results[function] = {}
        result = results.get(arguments)
        if result is None:
            result = results[arguments] = CachedResult(function, arguments)
            try:
                self._compute(result)
            except BaseException:
                del results[arguments]
                raise
        elif result.under_way:
            names = [under_way.name for under_way in self._under_way]
            raise QueryCycle([*names[names.index(result.name) :], result.name])
        elif result.doubtful:
            self._validate(result)
        else:
            result.checked_at = self._at
        if self._frames:
            self._frames[-1][result] = None
        if result.error is not None:
            # From where it first came: each raising would add its own frames to those before.
            raise result.error.with_traceback(result.trace)
        value: R = result.value
        return value

    def _validate(self, result: CachedResult) -> None:
        """Finds that nothing which the answer read changed since it was checked; else works it out
        anew.
        """
        for read in result.reads:
            if read.doubtful and isinstance(read, CachedResult):
                self._validate(read)
            if read.changed_at > result.checked_at:
                self._compute(result)
                return
        result.checked_at = self._at
        result.doubtful = False

    def _compute(self, result: CachedResult) -> None:
        """Works an answer out. One that comes out equal to the one before has not changed."""
        if self.before_each is not None:
            self.before_each()
        frame: dict[Read, None] = {}
        self._frames.append(frame)
        self._under_way.append(result)
        result.under_way = True
        value, error = None, None
        try:
            value = result.function(self, *result.arguments)
        except QueryCycle:
            raise
        except Exception as raised:
            error = raised
        finally:
            self._frames.pop()
            self._under_way.pop()
            result.under_way = False
        self.run_counts[result.function] += 1
        for read in result.reads:
            if read not in frame:
                self._leave(read, result)
        for read in frame:
            read.readers.add(result)
        result.reads = tuple(frame)
        is_first = result.changed_at == NEVER
        if is_first or error or result.error or result.value != value:
            result.value, result.error, result.changed_at = value, error, self._at
            result.trace = error.__traceback__ if error is not None else None
        result.checked_at = self._at
        result.doubtful = False


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
            return database.answer(function, bound.args[1:])
        return database.answer(function, arguments)

    asked.__name__ = function.__name__
    asked.__qualname__ = function.__qualname__
    asked.__doc__ = function.__doc__
    asked.__module__ = function.__module__
    return asked
