"""Plugs that may sit one pin off: moved back, with what hung over the end in its place again."""

from collections.abc import Collection, Iterable, Iterator

from vervain.edits import plug_edits
from vervain.model.connectors import connector_of
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.part import BOARD_KINDS
from vervain.model.subject import Subject
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import InTurn, PutConductor, ShiftPlug
from vervain.rules.missing_conductors import MissingConductors
from vervain.text.words import in_a_row

# What may be wrong, in words, the change that would mend it, and where it is.
Told = tuple[str, Fix, tuple[Subject, ...]]


def _conductors_in(machine: Machine) -> int:
    """How many conductors a machine has."""
    return sum(len(hookup.conductors) for hookup in machine.hookups)


def _at_one_pin(joins: Iterable[Fix]) -> Iterator[list[Fix]]:
    """Of some joins those that come to one pin, where there are several."""
    by_pin: dict[PinRef, list[Fix]] = {}
    for fix in joins:
        if isinstance(fix.remedy, PutConductor):
            by_pin.setdefault(fix.remedy.second, []).append(fix)
    yield from (fixes for fixes in by_pin.values() if len(fixes) > 1)


class ShiftedPlugs:
    """The plugs of one machine. `trying` is moved by who tries the changes."""

    def __init__(self, queries: Queries, trying: Queries, missing: MissingConductors) -> None:
        self.queries, self.trying, self.missing = queries, trying, missing
        self.machine = queries.machine

    def one_pin_off(self, plug: PortRef) -> Iterator[Told]:
        """The plug moved by one pin, where nothing hangs over the end then."""
        for by, moved in self._moved(plug):
            if _conductors_in(moved) == _conductors_in(self.machine):
                yield self._shifted(plug, by)

    def hung_over(self, plug: PortRef, only: Collection[PinRef] | None = None) -> Iterator[Told]:
        """The plug moved by one pin, and what hung over the end before in its place again: one of
        some pins, where `only` they are meant.
        """
        for by, moved in self._moved(plug):
            if _conductors_in(moved) != _conductors_in(self.machine):
                continue
            sentence, shift, subjects = self._shifted(plug, by)
            self.trying.move_to(moved)
            if only is None:
                needed = self.missing.needed_at(plug, self.trying)
            else:
                needed = self.missing.where_it_hung_over(plug, by, only, self.trying)
            # Two leads may share the cavity that hung over.
            for fixes in (*([fix] for fix in needed), *_at_one_pin(needed)):
                fix = Fix(
                    words=in_a_row([shift.words, *(fix.words for fix in fixes)]),
                    remedy=InTurn(remedies=(shift.remedy, *(fix.remedy for fix in fixes))),
                )
                yield sentence, fix, subjects

    def _moved(self, plug: PortRef) -> Iterator[tuple[int, Machine]]:
        """The plug moved by one pin to either side; a screw terminal takes none."""
        port, part = self.queries.port(plug), self.queries.part_of(plug.device)
        connector = connector_of(port.connector) if port is not None else None
        # Of a board whose connectors nobody gave some may be plugs.
        is_plug = part is not None and part.kind in BOARD_KINDS
        if connector is not None:
            is_plug = not connector.family.takes_wires
        if is_plug:
            yield from ((by, plug_edits.shift_plug(self.machine, plug, by)) for by in (-1, 1))

    def _shifted(self, plug: PortRef, by: int) -> Told:
        where = f"{plug.device} {plug.port}"
        fix = Fix(words=f"move the plug in {where} by one pin", remedy=ShiftPlug(plug=plug, by=by))
        return f"The plug in {where} sits one pin off.", fix, (about(plug),)
