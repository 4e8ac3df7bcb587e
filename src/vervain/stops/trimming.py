"""The circuit of the stops without what nothing of it can ever come to."""

from vervain.queries.walk import reached
from vervain.stops.circuit import Circuit


def without_idle(circuit: Circuit) -> Circuit:
    """The circuit without what nothing of it can ever come to: the windings of motors and the wires
    to them, contacts that nothing is joined to. The rest is numbered anew in its order, so that an
    edit elsewhere leaves the circuit as it was.
    """
    pairs = [
        *circuit.joints, *circuit.wires.values(), *circuit.diodes,
        *((a, b) for a, b, _ in circuit.jumpers),
        *((c.a, c.b) for c in circuit.contacts), *((f.a, f.b) for f in circuit.fuses),
        *((o.node, o.rail) for o in circuit.outputs),
    ]  # fmt: skip
    near = beside(pairs)
    starts = [
        *(node for s in circuit.sources for node in (s.plus, s.minus)),
        *(node for load in circuit.loads for node in (load.plus, load.minus)),
        *(n for entry in circuit.inputs for n in (entry.node, entry.against) if n is not None),
        *((circuit.earth,) if circuit.earth is not None else ()),
    ]
    kept = reached(starts, lambda node: near.get(node, ()))
    new = {old: number for number, old in enumerate(sorted(kept))}
    contacts = [c for c in circuit.contacts if c.a in new]
    return Circuit(
        node_of={pin: new[node] for pin, node in circuit.node_of.items() if node in new},
        wires={key: (new[a], new[b]) for key, (a, b) in circuit.wires.items() if a in new},
        joints=[(new[a], new[b]) for a, b in circuit.joints if a in new],
        jumpers=[(new[a], new[b], name) for a, b, name in circuit.jumpers if a in new],
        contacts=[c._replace(a=new[c.a], b=new[c.b]) for c in contacts],
        fuses=[f._replace(a=new[f.a], b=new[f.b]) for f in circuit.fuses if f.a in new],
        diodes=[(new[a], new[b]) for a, b in circuit.diodes if a in new],
        sources=[s._replace(plus=new[s.plus], minus=new[s.minus]) for s in circuit.sources],
        loads=[x._replace(plus=new[x.plus], minus=new[x.minus]) for x in circuit.loads],
        inputs=[
            entry._replace(
                node=new[entry.node],
                against=new[entry.against] if entry.against is not None else None,
            )
            for entry in circuit.inputs
        ],
        outputs=[
            o._replace(node=new[o.node], rail=new[o.rail]) for o in circuit.outputs if o.node in new
        ],
        monitors=circuit.monitors, times=circuit.times, stops=circuit.stops,
        guards=circuit.guards, must_go=circuit.must_go,
        earth=new[circuit.earth] if circuit.earth is not None else None, control=circuit.control,
    )  # fmt: skip


def beside(pairs: list[tuple[int, int]]) -> dict[int, list[int]]:
    """The nodes beside each node."""
    found: dict[int, list[int]] = {}
    for a, b in pairs:
        found.setdefault(a, []).append(b)
        found.setdefault(b, []).append(a)
    return found
