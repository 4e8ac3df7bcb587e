"""What becomes of each fault of the stops: what is seen, what goes, is it noticed in time."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import host_ports
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.stops.at_once import settle_all
from vervain.stops.circuit import Circuit
from vervain.stops.compiling import circuit_of, stop_devices
from vervain.stops.faults import Fault, conditions_of, faulty_wires, single_faults
from vervain.stops.following import Clock
from vervain.stops.outcomes import Demand, InputSeen, Noticed, Verdict
from vervain.stops.simulation import Conditions, Level, Settled, Simulator

# So many second faults are worked out between two questions whether to go on.
AT_ONCE = 40


class StopJudge:
    """Settles a circuit with and without faults, and compares."""

    def __init__(self, queries: Queries) -> None:
        self.circuit: Circuit = circuit_of(queries)
        # A controller that is told to stop is still alive, and may be wrong; a drive's own input
        # takes its torque away without a program.
        self.controllers = _controllers(queries)
        self.told_by = {
            name: _commanders(queries, name) & self.controllers
            for name in (self.circuit.loads[n].ref.device for n in self.circuit.must_go)
        }
        self.has_start = any(contact.is_start for contact in self.circuit.contacts)
        self.simulator = Simulator(self.circuit, faulty_wires(queries))
        self.at_work, self.holds = self.running(Conditions())
        self.pressed = {
            stop: self._press(Conditions(), stop, self.at_work, self.holds)
            for stop in self.circuit.demanded
        }
        # After these the machine waits until it is started again, or its controller was told.
        self.waiting = frozenset(
            stop for stop, pressed in self.pressed.items()
            if self._told(pressed, True) != self._told(self.at_work, True)
            or not self._comes_back(Conditions(), pressed)
        )  # fmt: skip

    def running(self, conditions: Conditions) -> tuple[Settled, bool]:
        """The machine at work, and whether it goes on when what started it is let go."""
        started = self.simulator.settle(conditions)
        if not self.has_start:
            return started, True
        let_go = self.simulator.settle(replace(conditions, started=False), started)
        return self._running(started, let_go)

    def _running(self, started: Settled, let_go: Settled) -> tuple[Settled, bool]:
        # A safety relay starts only when its button is let go.
        holds = self.moves(let_go) >= self.moves(started)
        return (let_go if holds else started), holds

    def under(self, conditions: Conditions) -> Settled:
        """Where the running machine comes to rest under conditions, with buttons pressed."""
        running, _ = self.running(replace(conditions, pressed=frozenset()))
        if not conditions.pressed:
            return running
        return self.simulator.settle(self.let_go(conditions), running)

    def let_go(self, conditions: Conditions) -> Conditions:
        """The conditions once the button that started the machine is let go, if it runs on then."""
        _, holds = self.running(replace(conditions, pressed=frozenset()))
        return replace(conditions, started=not holds)

    def _press(self, conditions: Conditions, stop: str, running: Settled, holds: bool) -> Settled:
        pressed = replace(conditions, pressed=frozenset({stop}), started=not holds)
        return self.simulator.settle(pressed, running)

    def moves(self, settled: Settled) -> frozenset[int]:
        """What of that which must go has power, and is not held off by a stop input of its own: a
        drive whose safe torque off is open gives no torque (IEC 61800-5-2).
        """
        running = settled.on & frozenset(self.circuit.must_go)
        stopped = settled.stopped - self.controllers
        return frozenset(n for n in running if self.circuit.loads[n].ref.device not in stopped)

    def _noticeable(self, settled: Settled) -> tuple[object, ...]:
        """What shows by itself: inputs, the power of what moves, fuses and supplies."""
        return settled.levels, self.moves(settled), settled.blown, settled.down

    def demand(self, stop: str) -> Demand:
        """What pressing a stop does without any fault."""
        pressed = self.pressed[stop]
        is_read = self._told(pressed, True) != self._told(self.at_work, True)
        at_rest = self._with_outputs_off(stop, pressed)
        return Demand(
            stop=stop,
            stays=self.names(self.moves(pressed)),
            inputs=self.inputs_seen(pressed),
            restarts=not is_read and self._comes_back(Conditions(), pressed),
            does_nothing=pressed == self.at_work,
            is_read=is_read,
            is_seen=self._told(pressed) != self._told(self.at_work),
            racing=self.names(self._racing(stop, pressed)),
            takes_s=self._takes_s(stop),
            overridden=self.names(self._started_against(stop, pressed) - self.moves(pressed)),
            stays_at_rest=self.names(self.moves(at_rest) - self.moves(pressed)),
            dropped=tuple(sorted({at.device for at in pressed.coils - at_rest.coils})),
        )

    def _with_outputs_off(self, stop: str, pressed: Settled) -> Settled:
        """Where the machine comes to rest with a stop pressed while programs hold nothing: a relay
        of theirs that has dropped may close a way.
        """
        closes = any(c.is_nc and c.coil is not None for c in self.circuit.contacts)
        if not closes or not self.circuit.outputs:
            return pressed
        idle = frozenset(output.ref.device for output in self.circuit.outputs)
        conditions = Conditions(pressed=frozenset({stop}), started=not self.holds, off=idle)
        return self.simulator.settle(conditions, self.at_work)

    def _takes_s(self, stop: str) -> float:
        """How long after pressing a stop the last relay moved, in s."""
        clock = Clock(self.circuit.times)
        pressed = Conditions(pressed=frozenset({stop}), started=not self.holds)
        self.simulator.settle(pressed, self.at_work, clock)
        return clock.passed_s

    def _comes_back(self, conditions: Conditions, pressed: Settled) -> bool:
        """Whether something that went by a stop runs again once the stop is released."""
        let_go = self._let_go_after(conditions, pressed)
        released = self.simulator.settle(let_go, pressed)
        return self._runs_again(pressed, released)

    def _let_go_after(self, conditions: Conditions, pressed: Settled) -> Conditions:
        """The conditions once a stop is released: whoever held a button down has let it go, and a
        controller that was without power meanwhile gives nothing until somebody starts its program.
        """
        return replace(conditions, started=False, off=conditions.off | self._begins_anew(pressed))

    def _begins_anew(self, pressed: Settled) -> frozenset[str]:
        """The controllers that a stop leaves without power."""

        def fed(settled: Settled) -> frozenset[str]:
            loads = (self.circuit.loads[n] for n in settled.on)
            return frozenset(load.ref.device for load in loads if load.kind == "feed")

        return self.controllers & fed(self.at_work) - fed(pressed)

    def _runs_again(self, pressed: Settled, released: Settled) -> bool:
        """Whether something that went runs once a stop is released; what waits for the steps of a
        controller that begins anew does not.
        """
        anew = self._begins_anew(pressed)
        back = self.names(self.moves(released) - self.moves(pressed))
        return any(
            name not in anew and not (self.told_by[name] and self.told_by[name] <= anew)
            for name in back
        )

    def _started_against(self, stop: str, pressed: Settled) -> frozenset[int]:
        """What of that which must go has power while a stop and the start button are pressed."""
        if not self.has_start:
            return frozenset()
        both = Conditions(pressed=frozenset({stop}), started=True)
        return self.moves(self.simulator.settle(both, pressed))

    def _racing(self, stop: str, pressed: Settled) -> frozenset[int]:
        """The loads whose state is a matter of which relay is quicker."""
        press = Conditions(pressed=frozenset({stop}), started=not self.holds)
        on_press = self.simulator.racing(press, self.at_work)
        return on_press | self.simulator.racing(Conditions(started=self.holds), pressed)

    def _told(self, settled: Settled, only_stops: bool = False) -> tuple[Level, ...]:
        """What the inputs of controllers read. A drive's own stop input tells nobody: released, it
        has its torque back at once.
        """
        pairs = zip(self.circuit.inputs, settled.levels, strict=True)
        return tuple(
            level for entry, level in pairs
            if entry.pin.device in self.controllers and (entry.is_stop or not only_stops)
        )  # fmt: skip

    def inputs_seen(self, settled: Settled) -> tuple[InputSeen, ...]:
        """The stop inputs that are open, and other inputs that read otherwise than at work."""
        rows = zip(self.circuit.inputs, settled.levels, self.at_work.levels, strict=True)
        return tuple(
            InputSeen(pin=entry.pin, level=level)
            for entry, level, at_work in rows
            if (entry.is_stop and level != "high") or level != at_work
        )

    def names(self, loads: frozenset[int]) -> tuple[str, ...]:
        """The devices of some loads."""
        return tuple(dict.fromkeys(self.circuit.loads[n].ref.device for n in sorted(loads)))

    def verdict(self, *faults: Fault) -> Verdict:
        """What becomes of a fault, or of several together."""
        return self.verdicts([faults])[0]

    def verdicts(self, cases: Sequence[tuple[Fault, ...]]) -> list[Verdict]:
        """What becomes of each fault, or of several together, all worked out at once."""
        conditions = [conditions_of(self.circuit, *faults) for faults in cases]
        running = self._all_running(conditions)
        pressed = self._all_pressed(conditions, running)
        back = self._all_coming_back(conditions, running, pressed)
        return [
            self._verdict(faults, *running[n], {stop: by[n] for stop, by in pressed.items()},
                          [stop for stop in pressed if (stop, n) in back])
            for n, faults in enumerate(cases)
        ]  # fmt: skip

    def _all_running(self, conditions: list[Conditions]) -> list[tuple[Settled, bool]]:
        """As `running`, of all conditions."""
        started = settle_all(self.simulator, conditions)
        if not self.has_start:
            return [(settled, True) for settled in started]
        released = [replace(c, started=False) for c in conditions]
        let_go = settle_all(self.simulator, released, started)
        return [self._running(*pair) for pair in zip(started, let_go, strict=True)]

    def _all_pressed(
        self, conditions: list[Conditions], running: list[tuple[Settled, bool]]
    ) -> dict[str, list[Settled]]:
        """Where each comes to rest with each stop pressed."""
        before = [settled for settled, _ in running]
        return {
            stop: settle_all(
                self.simulator,
                [
                    replace(c, pressed=frozenset({stop}), started=not holds)
                    for c, (_, holds) in zip(conditions, running, strict=True)
                ],
                before,
            )
            for stop in self.pressed
        }

    def _all_coming_back(
        self,
        conditions: list[Conditions],
        running: list[tuple[Settled, bool]],
        pressed: dict[str, list[Settled]],
    ) -> set[tuple[str, int]]:
        """The stops after which the machine starts when they are released, although it should wait
        for its button or for a controller that was told; each with the number of its condition.
        """
        asked = [
            (stop, n)
            for stop in self.waiting
            for n, rest in enumerate(pressed[stop])
            if not self.moves(rest) - self.moves(self.pressed[stop])
            and self._told(rest, True) == self._told(running[n][0], True)
        ]
        rests = [pressed[stop][n] for stop, n in asked]
        let_go = [
            self._let_go_after(conditions[n], rest)
            for (_, n), rest in zip(asked, rests, strict=True)
        ]
        released = settle_all(self.simulator, let_go, rests)
        return {
            key
            for key, rest, after in zip(asked, rests, released, strict=True)
            if self._runs_again(rest, after)
        }

    def _verdict(
        self,
        faults: tuple[Fault, ...],
        now: Settled,
        holds: bool,
        pressed: dict[str, Settled],
        restarting: list[str],
    ) -> Verdict:
        lost = self.moves(self.at_work) - self.moves(now)
        changed = tuple(
            InputSeen(pin=entry.pin, level=level)
            for entry, level, before in zip(
                self.circuit.inputs, now.levels, self.at_work.levels, strict=True
            )
            if level != before
        )
        stays: list[tuple[str, tuple[str, ...]]] = []
        shows = False
        for stop, sound in self.pressed.items():
            left = self.moves(pressed[stop]) - self.moves(sound)
            if left:
                stays.append((stop, self.names(left)))
            shows = shows or self._noticeable(pressed[stop]) != self._noticeable(sound)
        noticed: Noticed = "never"
        if holds != self.holds or self._noticeable(now) != self._noticeable(self.at_work):
            # What does not run on when its start button is let go is noticed as well.
            noticed = "at once"
        elif (shows or restarting) and not stays:
            # That it starts by itself is seen, then.
            noticed = "at the next stop"
        return Verdict(
            fault=faults[0],
            noticed=noticed,
            stays=tuple(stays),
            restarting=tuple(stop for stop in self.pressed if stop in restarting),
            dead=self.names(lost),
            changed=changed,
            fuses=tuple(self.circuit.fuses[n].device for n in sorted(now.blown)),
        )


@query
def _controllers(queries: Queries) -> frozenset[str]:
    return frozenset(
        name
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind == "controller"
    )


@query
def _commanders(queries: Queries, device: str) -> frozenset[str]:
    """The devices that the plugs of a device go into."""
    part = queries.part_of(device)
    refs = (PortRef(device=device, port=port.id) for port in (part.ports if part else ()))
    return frozenset(host.device for ref in refs for host in host_ports(queries, ref))


@query
def stop_judge(queries: Queries) -> StopJudge:
    """The judge of a machine's stops, with the machine at work and each stop pressed."""
    return StopJudge(queries)


@query
def nodes_live_after(queries: Queries, stop: str) -> frozenset[int]:
    """The nodes that are at a plus while a stop is pressed; none where nothing is pressed."""
    judge = stop_judge(queries)
    if stop not in judge.pressed:
        return frozenset()
    conditions = Conditions(pressed=frozenset({stop}), started=not judge.holds)
    return judge.simulator.nodes_at(conditions, judge.pressed[stop], "plus")


@query
def stop_demands(queries: Queries) -> tuple[Demand, ...]:
    """What each stop of a machine does when it is pressed, and each door when it is opened."""
    if not circuit_of(queries).stops:
        return ()
    judge = stop_judge(queries)
    return tuple(judge.demand(stop) for stop in judge.circuit.demanded)


def stop_demand(queries: Queries, device: str) -> Demand | None:
    """What pressing one device does; None where it has no stop button."""
    return demand_of(queries, device) if device in stop_devices(queries) else None


def demand_of(queries: Queries, device: str) -> Demand | None:
    """What pressing a stop, or opening a door, does; None where a device is neither."""
    return next((found for found in stop_demands(queries) if found.stop == device), None)


@query
def stop_verdicts(queries: Queries) -> tuple[Verdict, ...]:
    """What becomes of every single fault of a machine's stops, the worst first."""
    if not circuit_of(queries).stops:
        return ()
    every = stop_judge(queries).verdicts([(fault,) for fault in single_faults(queries)])
    return tuple(sorted(every, key=lambda verdict: verdict.rank))


@query
def channels_never_opened(queries: Queries) -> tuple[PinRef, ...]:
    """The stop inputs that are closed at work and stay so whatever stop is pressed and door opened,
    although another channel of their port opens.
    """
    judge = stop_judge(queries)
    rests = judge.pressed.values()
    opened = {
        entry.pin.port_ref
        for n, entry in enumerate(judge.circuit.inputs)
        if entry.is_stop and any(rest.levels[n] != "high" for rest in rests)
    }
    return tuple(
        entry.pin
        for n, entry in enumerate(judge.circuit.inputs)
        if entry.is_stop and entry.pin.port_ref in opened
        and all(rest.levels[n] == "high" for rest in (judge.at_work, *rests))
    )  # fmt: skip


@query
def moves_at_work(queries: Queries) -> bool:
    """Whether anything that must go has power at work: a dead machine says nothing of its stops."""
    judge = stop_judge(queries)
    return not judge.circuit.must_go or bool(judge.moves(judge.at_work))


@query
def given_up_at_work(queries: Queries) -> frozenset[str]:
    """The sources that are shorted with every stop released and every output on, and the fuses that
    blow.
    """
    judge = stop_judge(queries)
    sources = {judge.circuit.sources[number].device for number in judge.at_work.down}
    return frozenset(sources | {judge.circuit.fuses[n].device for n in judge.at_work.blown})


@query
def strings_at_work(queries: Queries) -> tuple[frozenset[int], frozenset[int], frozenset[int]]:
    """Of a machine with every stop released: the loads that are on, the contacts that are closed,
    and the loads that would be on with every contact closed.
    """
    judge = stop_judge(queries)
    every = frozenset(range(len(judge.circuit.contacts)))
    if_closed = judge.simulator.settle(Conditions(welded=every))
    closed = judge.simulator.closed_contacts(Conditions(), judge.at_work)
    return judge.at_work.on, closed, if_closed.on


def second_faults(
    queries: Queries, *first: Fault, should_continue: Callable[[], bool] = lambda: True
) -> tuple[Verdict, ...]:
    """What every further fault does beside some that nobody noticed; those that are dangerous then,
    and still not noticed. Stops early where it is told to.
    """
    judge = stop_judge(queries)
    others = [fault for fault in single_faults(queries) if fault not in first]
    found: list[Verdict] = []
    for start in range(0, len(others), AT_ONCE):
        if not should_continue():
            break
        both = judge.verdicts([(other, *first) for other in others[start : start + AT_ONCE]])
        found += [v for v in both if v.is_dangerous and v.noticed == "never"]
    return tuple(found)
