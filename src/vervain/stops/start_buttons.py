"""Which contacts are start buttons: by what lies over them, or waits for them, or by name."""

from vervain.queries.walk import reached
from vervain.stops.circuit import Circuit, ContactAt
from vervain.stops.trimming import beside


def with_starts(circuit: Circuit) -> list[ContactAt]:
    """The contacts, with those that are start buttons: worked by hand, and with contacts of coils
    over them that hold what they started, or in the line of a safety relay's start input; or such
    that they open by themselves, and are held down for as long as anything is to move.
    """
    jumpers = [(a, b) for a, b, _ in circuit.jumpers]
    others = [(c.a, c.b) for c in circuit.contacts if c.coil is None and not c.is_by_hand]
    coiled = [(c.a, c.b) for c in circuit.contacts if c.coil is not None]
    for_good = beside([*circuit.joints, *circuit.wires.values(), *jumpers, *others])
    held = beside([*circuit.joints, *circuit.wires.values(), *jumpers, *others, *coiled])

    to_start = {
        node
        for monitor in circuit.monitors if monitor.start is not None
        for node in reached(
            [circuit.inputs[monitor.start].node], lambda node: held.get(node, ())
        )
    }  # fmt: skip
    if any(source.plus in to_start for source in circuit.sources):
        # Something is over the button: nothing says which.
        to_start = set()

    def is_start(contact: ContactAt) -> bool:
        if not contact.is_by_hand or contact.is_let_go:
            return contact.is_by_hand
        if (contact.a in to_start) != (contact.b in to_start):
            return True
        with_coils = reached([contact.a], lambda node: held.get(node, ()))
        without = reached([contact.a], lambda node: for_good.get(node, ()))
        return contact.b in with_coils and contact.b not in without

    return [contact._replace(is_start=is_start(contact)) for contact in circuit.contacts]
