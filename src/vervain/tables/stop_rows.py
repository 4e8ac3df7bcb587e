"""The stops of a machine as rows: what each does when pressed, and every single fault."""

from vervain.harness.labels import conductor_labels
from vervain.model.base import Record
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words, pin_text
from vervain.stops.chains import Link, chains_of, source_words
from vervain.stops.circuit import Circuit, Wire
from vervain.stops.compiling import circuit_of, stop_devices
from vervain.stops.outcomes import Demand, Noticed, Verdict
from vervain.stops.verdicts import stop_demands, stop_verdicts
from vervain.stops.words import (
    GOES,
    demand_words,
    duration_words,
    fault_words,
    names_in_words,
    power_words,
    seen_words,
)

# Which of two alike faults a row stands for is said by the first; the others are counted.
NOTICED_WORDS: dict[Noticed, str] = {
    "at once": "at once", "at the next stop": "at the next stop", "never": "no",
}  # fmt: skip


class StopRow(Record, frozen=True, kw_only=True):
    """One fault, or several alike: in words, what a controller sees, what becomes of the power,
    when it is noticed; the wires that it is at.
    """

    fault: str
    sees: str
    power: str
    noticed: Noticed
    is_dangerous: bool
    wires: tuple[Wire, ...]
    device: str = ""

    @property
    def is_grave(self) -> bool:
        """Whether a stop fails and nothing shows it before."""
        return self.is_dangerous and self.noticed == "never"


def label_of(queries: Queries, wire: Wire) -> str:
    """The label of a wire at its beginning; its hookup where it has none."""
    found = conductor_labels(queries, *wire)
    return found.at_a if found is not None and found.at_a else wire[0]


def stop_row(queries: Queries, verdict: Verdict) -> StopRow:
    """What becomes of one fault, in words."""
    power = power_words(verdict)
    stops = stop_devices(queries)
    if power == GOES and any(d.stays for d in stop_demands(queries) if d.stop in stops):
        power = "as without the fault"
    return StopRow(
        fault=fault_words(queries, verdict.fault, lambda wire: label_of(queries, wire)),
        sees=seen_words(queries, verdict.changed),
        power=power,
        noticed=verdict.noticed,
        is_dangerous=verdict.is_dangerous,
        wires=verdict.fault.wires,
        device=verdict.fault.device,
    )


@query
def stop_rows(queries: Queries) -> tuple[StopRow, ...]:
    """Every single fault, those first that defeat a stop without being noticed."""
    return tuple(stop_row(queries, verdict) for verdict in stop_verdicts(queries))


class PressRow(Record, frozen=True, kw_only=True):
    """What pressing one stop, or opening a door, does, in words; `done` is "S1 pressed, panel".
    `is_read` says that there is a controller that could see it.
    """

    stop: str
    done: str
    name: str
    sees: str
    power: str
    releasing: str
    is_sound: bool
    is_read: bool = True

    @property
    def words(self) -> str:
        """What is to be seen: of the power, by the controller, and when it is released."""
        sees = f"; the controller sees {self.sees}" if self.is_read else ""
        return f"power {self.power}{sees}; released: {self.releasing}"


def _press_row(queries: Queries, demand: Demand, must_go: tuple[str, ...]) -> PressRow:
    circuit, device = circuit_of(queries), queries.device(demand.stop)
    is_guard = demand.stop in circuit.guards
    done = demand_words(circuit, demand.stop)
    gone = tuple(name for name in must_go if name not in demand.stays)
    power = f"goes at {names_in_words(gone)}" if gone else "nothing goes"
    if gone and demand.takes_s:
        power += f" within {duration_words(demand.takes_s)}"
    if demand.stays:
        power = f"stays at {names_in_words(demand.stays)}" + (f"; {power}" if gone else "")
    releasing = "comes back by itself" if demand.restarts else "stays stopped"
    if demand.is_read and not demand.restarts:
        releasing = "the controller decides"
    return PressRow(
        stop=demand.stop,
        done=f"{done}, {device.name}" if device and device.name else done,
        name=device.name if device else "",
        sees=seen_words(queries, demand.inputs),
        power=power,
        releasing=releasing,
        # What a door must stop is for the builder to say.
        is_sound=is_guard or not (demand.stays or demand.restarts or demand.does_nothing),
        is_read=any(
            (part := queries.part_of(name)) is not None and part.kind == "controller"
            for name in queries.devices()
        ),
    )


@query
def press_rows(queries: Queries) -> tuple[PressRow, ...]:
    """What each stop does when it is pressed, and each door that does something when opened."""
    circuit = circuit_of(queries)
    must_go = tuple(dict.fromkeys(circuit.loads[n].ref.device for n in circuit.must_go))
    return tuple(
        _press_row(queries, demand, must_go)
        for demand in stop_demands(queries)
        if not (demand.does_nothing and demand.stop in circuit.guards)
    )


class StringRow(Record, frozen=True, kw_only=True):
    """One string in words: its source, the wires, fuses and contacts in order, what it ends in, and
    the inputs that read it.
    """

    source: str
    through: str
    ends: str
    read_by: str


@query
def string_rows(queries: Queries) -> tuple[StringRow, ...]:
    """Every string of the stops, from its source to what it ends in."""
    circuit = circuit_of(queries)
    found = []
    for chain in chains_of(queries):
        through: list[str] = []
        for link in chain.links:
            through += [label_of(queries, along.wire) for along in link.wires]
            through.append(_link_words(queries, circuit, link))
        through += [label_of(queries, along.wire) for along in chain.last_wires]
        back: list[str] = []
        for link in chain.returns:
            back += [label_of(queries, along.wire) for along in link.wires]
            back.append(_link_words(queries, circuit, link))
        back += [label_of(queries, along.wire) for along in chain.return_wires]
        pins = [circuit.inputs[number].pin for number in chain.inputs]
        found.append(
            StringRow(
                source=" ".join(source_words(queries, circuit.sources[chain.source])).strip(),
                through=", ".join(through) + (f"; back by {', '.join(back)}" if back else ""),
                ends=names_in_words(tuple(dict.fromkeys(ref.device for ref in chain.ends))),
                read_by=", ".join(pin_in_words(queries, pin) for pin in pins),
            )
        )
    return tuple(found)


def string_words(queries: Queries, wire: Wire) -> str:
    """The string of the stops that a wire is in: "string of Q1, opened by S1, S2"; empty where it
    is in none. One of coils and inputs comes before those of power.
    """
    chains = sorted(chains_of(queries), key=lambda chain: chain.is_power)
    for chain in chains:
        groups = (
            *(link.wires for link in chain.all_links), chain.last_wires, chain.return_wires
        )  # fmt: skip
        if not any(along.wire == wire for group in groups for along in group):
            continue
        contacts = [link.device for link in chain.all_links if link.kind == "contact"]
        opened = f", opened by {names_in_words(tuple(dict.fromkeys(contacts)))}" if contacts else ""
        ends = names_in_words(tuple(dict.fromkeys(ref.device for ref in chain.ends)))
        return f"{'power' if chain.is_power else 'string'} of {ends}{opened}"
    return ""


def _link_words(queries: Queries, circuit: Circuit, link: Link) -> str:
    if link.kind == "fuse":
        return link.device
    pins = circuit.contacts[link.number].pins
    made = f"{link.device} {pin_text(queries, pins[0])}-{pin_text(queries, pins[1])}"
    return f"{made} (bridged)" if link.kind == "bridged contact" else made
