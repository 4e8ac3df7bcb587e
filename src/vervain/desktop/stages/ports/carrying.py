"""What is done to plugs and conductors: picked up, put down, taken off, moved to another pin."""

from functools import partial

from vervain.desktop.session import Selection, Session
from vervain.edits.device_edits import set_lie
from vervain.edits.hookup_edits import drop_conductors, exchange_pins, move_pins
from vervain.edits.plug_edits import turn_plug, used_pins
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.orientation import TURNS
from vervain.ports.alternates import add_alternate, is_in, swap_in
from vervain.ports.compatibility import hosts_of
from vervain.ports.fit import Fit, fit
from vervain.ports.plugging import plug_in, unplug
from vervain.queries.connectivity import host_ports, occupants, steps_from
from vervain.queries.pin_words import pin_text


def carried_port(session: Session, designator: str) -> PortRef | None:
    """The port of a device that is carried when the device is picked up: its plug or leads."""
    part = session.queries.part_of(designator)
    ports = [p for p in (part.ports if part else ()) if p.end == "device" and hosts_of(p.kind)]
    plugs = [p for p in ports if p.kind != "feed in"] or ports
    return PortRef(device=designator, port=plugs[0].id) if plugs else None


def _jumper_stays(session: Session, target: PortRef, answer: Fit) -> str:
    """That a jumper was not turned because others rely on it; "" where it was."""
    if answer.option is None:
        return ""
    key, value = answer.option
    if session.queries.setting(target.device, key) == value:
        return ""
    return f"{key} stays: what else is plugged in relies on it."


class PlugDrag:
    """Carries plugs between the ports of a session's machine; every act is one undoable step."""

    def __init__(self, session: Session) -> None:
        self.session = session

    def pick_up(self) -> None:
        """Takes the plug in hand that sits in the selected port, or the selected device's own."""
        session = self.session
        ref = session.selection.port_ref
        if ref is not None and (port := session.queries.port(ref)) and port.end == "host":
            seated = occupants(session.queries, ref)
            if seated:
                session.take_in_hand(seated[-1])
                session.aim(ref)
            else:
                session.say(f"Nothing sits in {ref.port}.")
        elif session.selection.device is not None:
            self.take(session.selection.device)

    def take(self, designator: str) -> None:
        """Takes a device's plug in hand."""
        port = carried_port(self.session, designator)
        if port is None:
            self.session.say(f"{designator} has no plug that goes into a port.")
            return
        self.session.take_in_hand(port)

    def plug_in(self, complete: bool = True) -> None:
        """Puts what is in hand into the port that is aimed at, with what it needs there."""
        session, hand, target = self.session, self.session.in_hand, self.session.target
        if hand is None or target is None:
            return
        answer = fit(session.queries, hand, target)
        if not answer.pairs:
            session.say(f"{hand.device} does not go into {target.port}. {answer.reason}")
            return
        if target in host_ports(session.queries, hand):
            session.take_in_hand(None)
            return
        moved = bool(host_ports(session.queries, hand))
        words = (
            f"{'Moved' if moved else 'Put'} {hand.device} {'to' if moved else 'into'} {target.port}"
        )
        whole = complete and answer.verdict == "fits with"
        if whole:
            words = f"{words} with {answer.needs}"
        if session.apply(words, lambda m: plug_in(m, hand, target, complete=complete)):
            session.take_in_hand(None)
            session.select(Selection(device=hand.device))
            if answer.verdict != "fits":
                stays = _jumper_stays(session, target, answer) if whole else ""
                session.say(f"{words}. {stays or answer.reason}")

    def keep_as_alternate(self) -> None:
        """Keeps what is in hand as what can take over the port that is aimed at."""
        session, hand, target = self.session, self.session.in_hand, self.session.target
        if hand is None or target is None:
            return
        words = f"{hand.device} can take over {target.device} {target.port}"
        if session.apply(words, lambda m: add_alternate(m, hand.device, target)):
            session.take_in_hand(None)
            session.select(Selection(device=hand.device))

    def swap(self) -> None:
        """Swaps the alternate in that waits at the selected port, or that is selected."""
        session, chosen = self.session, self.session.selection
        for item in session.queries.alternates():
            here = item.port == chosen.port_ref or item.device == chosen.device
            if here and not is_in(session.queries, item):
                words = f"{item.device} takes over {item.port.device} {item.port.port}"
                if session.apply(words, partial(swap_in, item=item)):
                    session.say(f"{words}. Its settings are set; see Settings.")
                return
        session.say("No alternate waits there. Pick one up and press A at the port.")

    def reverse(self) -> None:
        """Turns the connector in the selected port round, first pin on last."""
        session, ref = self.session, self.session.selection.port_ref
        if ref is None or not used_pins(session.machine, ref):
            session.say("Select a port with a plug in it to turn that round.")
            return
        words = f"The plug in {ref.device} {ref.port} turned round"
        session.apply(words, partial(turn_plug, plug=ref))

    def lead_off(self) -> bool:
        """Takes the conductor at the selected pin off; it stays open."""
        session, pin = self.session, self.session.selection.pin_ref
        steps = steps_from(session.queries, pin) if pin is not None else ()
        hookup = session.queries.hookup(steps[-1].hookup) if steps else None
        if pin is None or hookup is None:
            return False
        side = "a" if hookup.a == pin.port_ref else "b"
        words = f"Took the lead off {pin.device} {pin.port} {pin_text(self.session.queries, pin)}"
        return session.apply(words, lambda m: drop_conductors(m, hookup.id, side, pin.pin))

    def join_bar(self, old: PinRef, new: PinRef) -> bool:
        """Moves the conductor at a pin into another pin of its port, beside what is there."""
        queries = self.session.queries
        steps = steps_from(queries, old)
        hookup = queries.hookup(steps[-1].hookup) if steps else None
        if hookup is None or old.port_ref != new.port_ref:
            self.session.say("A conductor can be joined to another pin of the same port.")
            return False
        side = "a" if hookup.a == old.port_ref else "b"
        here, there = (pin_text(self.session.queries, ref) for ref in (old, new))
        words = f"{old.port}: {here} joined into {there}"
        return self.session.apply(
            words, lambda m: move_pins(m, hookup.id, side, {old.pin: new.pin})
        )

    def unplug(self) -> None:
        """Takes the lead off at the selected pin; else the plug that is in hand, or that sits in
        the selected port.
        """
        session = self.session
        hand = session.in_hand
        if hand is None and session.selection.pin is not None and self.lead_off():
            return
        if hand is None and (ref := session.selection.port_ref) is not None:
            seated = occupants(session.queries, ref)
            hand = seated[-1] if seated else None
        if hand is None and session.selection.device is not None:
            hand = carried_port(session, session.selection.device)
        if hand is None:
            return
        session.apply(f"Took {hand.device} off", lambda machine: unplug(machine, hand))
        session.take_in_hand(None)

    def turn(self, over: bool = False) -> None:
        """Turns the selected board a quarter clockwise, or over, to how it lies on the bench."""
        session = self.session
        device = session.queries.device(session.selection.device or "")
        part = session.queries.part(device.part) if device is not None else None
        if device is None or part is None or part.board is None:
            session.say("Select a board to turn it to how it lies.")
            return
        name, turned = device.designator, device.turned_deg
        if over:
            flipped = not device.turned_over
            words = f"{name} turned {'over' if flipped else 'back face up'}"
            session.apply(words, lambda m: set_lie(m, name, turned, flipped))
            return
        after = TURNS[(TURNS.index(turned) + 1) % len(TURNS)]
        words = f"{name} turned to {after}°"
        session.apply(words, lambda m: set_lie(m, name, after, device.turned_over))

    def move_bar(self, old: PinRef, new: PinRef) -> bool:
        """Moves the conductor at a pin to another pin of its port; if that is taken, they change
        places.
        """
        queries = self.session.queries
        steps = steps_from(queries, old)
        if old.port_ref != new.port_ref or not steps:
            self.session.say("A conductor can be moved between the pins of one port.")
            return False
        hookup = queries.hookup(steps[0].hookup)
        if hookup is None:
            return False
        side = "a" if hookup.a == old.port_ref else "b"
        taken = steps_from(queries, new)
        here, there = (pin_text(queries, ref) for ref in (old, new))
        words = f"Pins {here} and {there} of {old.port} exchanged"
        if not taken:
            words = f"{old.port}: {here} moved to {there}"
            return self.session.apply(
                words, lambda m: move_pins(m, hookup.id, side, {old.pin: new.pin})
            )
        if all(step.hookup == hookup.id for step in taken):
            return self.session.apply(
                words, lambda m: exchange_pins(m, hookup.id, side, old.pin, new.pin)
            )
        others = taken[0].hookup

        def both(machine: Machine) -> Machine:
            machine = move_pins(machine, hookup.id, side, {old.pin: new.pin})
            other = queries.hookup(others)
            other_side = "a" if other is not None and other.a == new.port_ref else "b"
            return move_pins(machine, others, other_side, {new.pin: old.pin})

        return self.session.apply(words, both)
