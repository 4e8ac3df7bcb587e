"""Before anything is switched on: settings, protective earth, shorts, coils, contacts."""

from collections.abc import Iterator
from itertools import combinations

from msgspec.structs import replace

from vervain.bench.step import BenchStep, Window, around, bench_table, ohms_words
from vervain.electrical.feeds import gives_alternating, returns_of
from vervain.leads.motors import leads_port, measurable, order_at_driver, printed_coils
from vervain.leads.resistance import winding_resistances
from vervain.model.machine import PinRef, PortRef
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words, pin_text
from vervain.stops.contacts import input_of, used_contacts
from vervain.supply.earth import earth_pins, earth_root, is_bonded
from vervain.supply.results import source_name, supply_loads
from vervain.tables.settings_sheet import settings_sheet

SET_BY_HAND = ("Jumpers", "Drivers", "Fuses")


def before_power(queries: Queries) -> Iterator[BenchStep]:
    """The steps with everything off, in the order of the work."""
    yield from _settings(queries)
    yield from _earth(queries)
    yield from _shorts(queries)
    yield from _coils(queries)
    yield from _contacts(queries)


def _settings(queries: Queries) -> Iterator[BenchStep]:
    for row in settings_sheet(queries):
        if row.group in SET_BY_HAND and row.value:
            yield BenchStep(
                id=f"set {row.where} {row.what}",
                device=row.device,
                port=PortRef(device=row.device, port=row.port) if row.port else None,
                do=f"Look at {row.where}: {row.what}",
                see=row.value,
                why=row.because or "Set otherwise, it works otherwise.",
            )


def _earth(queries: Queries) -> Iterator[BenchStep]:
    root = earth_root(queries)
    most_ohm = bench_table().earth_most_ohm
    for device in queries.devices() if root is not None else ():
        if root is None or device == root.device or not is_bonded(queries, device):
            continue
        yield BenchStep(
            id=f"earth {device}",
            device=device,
            do=f"Ohms from {pin_in_words(queries, root)} to the metal of {device}",
            see=f"below {ohms_words(most_ohm)}, less the meter's leads",
            window=Window(unit="Ω", most=most_ohm),
            probes=((root, earth_pins(queries, device)[0]),),
            why="A fault to metal must blow the fuse, not wait for a hand.",
        )


def _shorts(queries: Queries) -> Iterator[BenchStep]:
    table = bench_table()
    for load in supply_loads(queries, "everything"):
        port = queries.port(load.pin.port_ref)
        is_winding = port is not None and gives_alternating(port)
        if source_name(queries, load.pin) != load.pin.device or is_winding:
            # The winding of a transformer shows next to nothing by itself.
            continue
        least_ohm = table.short_least_ohm
        if load.current_a > 0:
            least_ohm = load.nominal_v / load.current_a * table.short_ratio
        yield BenchStep(
            id=f"short {load.pin.device} {load.pin.port} {load.pin.pin}",
            device=load.pin.device,
            do=f"Everything plugged, mains off: ohms between {pin_in_words(queries, load.pin)} and "
            "its minus",
            see=f"above {ohms_words(least_ohm)}; it may climb",
            window=Window(unit="Ω", least=least_ohm),
            probes=tuple((load.pin, back) for back in returns_of(queries, load.pin)[:1]),
            port=load.pin.port_ref,
            why=f"All its loads as resistors would be {ohms_words(least_ohm / table.short_ratio)}; "
            "a short shows next to nothing.",
        )


def _coils(queries: Queries) -> Iterator[BenchStep]:
    table = bench_table()
    for motor in measurable(queries):
        device, found = queries.device(motor), order_at_driver(queries, motor)
        coils = (device.coils if device else ()) or printed_coils(queries, motor)
        if found is None or not coils:
            continue
        measured = dict(winding_resistances(queries, motor))
        pairs = [(coil[0], coil[-1]) for coil in coils if coil[0] != coil[-1]]
        if len(found[1]) == 3:
            # Of three phases each two leads show alike, whether star or delta.
            pairs = list(combinations(found[1], 2))
        names = [f"{first} to {last}" for first, last in pairs]
        between = "nothing to the metal"
        if len(found[1]) != 3:
            between = f"nothing between coils, {between}"
        ohms = [ohm for ohm in measured.values() if ohm > 0]
        about = f"about {ohms_words(ohms[0])} each" if ohms else "a few ohms each"
        yield BenchStep(
            id=f"coils {motor}",
            device=motor,
            do=f"Plug of {motor} off {found[0].device} {found[0].port}: ohms at {', '.join(names)}",
            see=f"{about}, alike within {table.alike_ratio:.0%}; {between}",
            window=replace(
                around(ohms[0], table.coil_ratio, "Ω") if ohms else Window(unit="Ω"),
                alike_ratio=table.alike_ratio,
            ),
            port=found[0],
            probes=_probes_at(queries, motor, pairs),
            why="A driver on a broken or crossed coil buzzes at best, and dies at worst.",
        )


def _probes_at(
    queries: Queries, motor: str, pairs: list[tuple[str, str]]
) -> tuple[tuple[PinRef, PinRef], ...]:
    """The leads of a motor as pins."""
    part = queries.part_of(motor)
    port = leads_port(part) if part is not None else None
    if port is None:
        return ()
    return tuple(
        (PinRef(device=motor, port=port.id, pin=a), PinRef(device=motor, port=port.id, pin=b))
        for a, b in pairs
    )


def _contacts(queries: Queries) -> Iterator[BenchStep]:
    for name in queries.devices():
        part, entry = queries.part_of(name), input_of(queries, name)
        if part is None or part.kind not in ("switch", "emergency stop"):
            continue
        for contact in used_contacts(queries, name):
            a, b = (pin_text(queries, pin) for pin in contact.pins)
            closed = contact.rest == "NC"
            yield BenchStep(
                id=f"contact {name} {contact.pins[0].port} {a}",
                device=name,
                do=f"Beeper across {name} {a} and {b}; work it by hand",
                see="beeps, and stops when worked" if closed else "silent, and beeps when worked",
                port=contact.pins[0].port_ref,
                probes=(contact.pins,),
                why=f"It is read at {entry.device} {entry.port}."
                if entry is not None
                else "It is in a string of the stops.",
            )
