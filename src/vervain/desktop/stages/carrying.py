"""What is done to plugs and conductors: picked up, put down, taken off, moved to another pin."""

from vervain.desktop.session import Selection, Session
from vervain.machine.edits import exchange_pins, move_pins, set_lie
from vervain.machine.machine import Machine, PinRef, PortRef
from vervain.machine.reach import host_ports, occupants, steps_from
from vervain.machine.turning import TURNS
from vervain.ports.fit import fit
from vervain.ports.mates import hosts_of
from vervain.ports.placing import put_down, take_off


def carried_port(session: Session, designator: str) -> PortRef | None:
    """The port of a device that is carried when the device is picked up: its plug or leads."""
    part = session.look.part_of(designator)
    ports = [p for p in (part.ports if part else ()) if p.end == "device" and hosts_of(p.kind)]
    plugs = [p for p in ports if p.kind != "feed in"] or ports
    return PortRef(device=designator, port=plugs[0].id) if plugs else None


class Carrier:
    """Carries plugs between the ports of a session's machine; every act is one undoable step."""

    def __init__(self, session: Session) -> None:
        self.session = session

    def pick_up(self) -> None:
        """Takes the plug in hand that sits in the selected port, or the selected device's own."""
        session = self.session
        ref = session.selection.port_ref
        if ref is not None and (port := session.look.port(ref)) and port.end == "host":
            seated = occupants(session.look, ref)
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

    def put_down(self) -> None:
        """Puts what is in hand into the port that is aimed at."""
        session, hand, target = self.session, self.session.in_hand, self.session.target
        if hand is None or target is None:
            return
        answer = fit(session.look, hand, target)
        if not answer.pairs:
            session.say(f"{hand.device} does not go into {target.port}. {answer.reason}")
            return
        if target in host_ports(session.look, hand):
            session.take_in_hand(None)
            return
        moved = bool(host_ports(session.look, hand))
        words = (
            f"{'Moved' if moved else 'Put'} {hand.device} {'to' if moved else 'into'} {target.port}"
        )
        if session.apply(words, lambda machine: put_down(machine, hand, target)):
            session.take_in_hand(None)
            session.select(Selection(device=hand.device))
            if answer.verdict != "fits":
                session.say(f"{words}. {answer.reason}")

    def take_off(self) -> None:
        """Takes the plug off that is in hand, or that sits in the selected port."""
        session = self.session
        hand = session.in_hand
        if hand is None and (ref := session.selection.port_ref) is not None:
            seated = occupants(session.look, ref)
            hand = seated[-1] if seated else None
        if hand is None and session.selection.device is not None:
            hand = carried_port(session, session.selection.device)
        if hand is None:
            return
        session.apply(f"Took {hand.device} off", lambda machine: take_off(machine, hand))
        session.take_in_hand(None)

    def turn(self, over: bool = False) -> None:
        """Turns the selected board a quarter clockwise, or over, to how it lies on the bench."""
        session = self.session
        device = session.look.device(session.selection.device or "")
        part = session.look.part(device.part) if device is not None else None
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
        look = self.session.look
        steps = steps_from(look, old)
        if old.port_ref != new.port_ref or not steps:
            self.session.say("A conductor can be moved between the pins of one port.")
            return False
        hookup = look.hookup(steps[0].hookup)
        if hookup is None:
            return False
        side = "a" if hookup.a == old.port_ref else "b"
        taken = steps_from(look, new)
        words = f"Pins {self._text(old)} and {self._text(new)} of {old.port} exchanged"
        if not taken:
            words = f"{old.port}: {self._text(old)} moved to {self._text(new)}"
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
            other = look.hookup(others)
            other_side = "a" if other is not None and other.a == new.port_ref else "b"
            return move_pins(machine, others, other_side, {new.pin: old.pin})

        return self.session.apply(words, both)

    def _text(self, ref: PinRef) -> str:
        pin = self.session.look.pin(ref)
        return pin.text if pin else ref.pin
