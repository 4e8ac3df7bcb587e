"""For each Harness rule a machine on which it fires and one on which it is silent, at its limit."""

from collections.abc import Callable

from msgspec.structs import replace

from tests import small
from vervain.edits import cable_edits, note_edits, route_edits
from vervain.files.part_files import shipped_shelf
from vervain.model.cable_part import CablePart
from vervain.model.machine import LabelTemplates, Machine
from vervain.model.place import Chain, Place, Run

Made = Callable[[], Machine]
PLACES = (
    Place(id="box", name="Box", closed=True, inside_m=0.4),
    Place(id="mid", name="Middle", strain_relief=True),
    Place(id="end", name="End", strain_relief=True),
)


def routed(machine: Machine, places: dict[str, str], *runs: Run) -> Machine:
    """The machine with three places, runs between them, and devices put there."""
    machine = replace(machine, places=PLACES, runs=runs)
    for device, place in places.items():
        machine = route_edits.put_device(machine, device, place)
    return machine


def run(name: str = "R1", a: str = "box", b: str = "end", length_m: float = 2.0, **how) -> Run:
    return Run(id=name, a=a, b=b, length_m=length_m, **how)


def fan_on_a_run(length_m: float | None = None, cable: str = "flex-2x0.5", **how) -> Machine:
    """A fan at the end of a run, by a cable W1."""
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24")
    build.cable("W1", cable, length_m)
    build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", "W1")
    return routed(build.machine, {"M1": "end", "G1": "box"}, run(**how))


def cabled(count: int, diameter_mm: float, chain: Chain, **part) -> Machine:
    """So many fans, each with a cable of a diameter, through one chain."""
    build = small.bench("G1 fell-ps24", *(f"M{n} quoin-bf24" for n in range(1, count + 1)))
    kind = replace(shipped_shelf().cable_parts["flex-2x0.5"], outer_diameter_mm=diameter_mm, **part)
    machine = replace(build.machine, cable_parts=(kind,))
    for number in range(1, count + 1):
        machine = cable_edits.add_cable(machine, kind, f"W{number}")
        build.machine = machine
        build.join("G1:OUT", f"M{number}:LEADS", "1-+ 2-−", f"W{number}")
        machine = build.machine
    places = {"G1": "box", **{f"M{n}": "end" for n in range(1, count + 1)}}
    return routed(machine, places, run(moving=True, chain=chain))


def chain(width_mm: float, height_mm: float, bend_radius_mm: float = 200) -> Chain:
    return Chain(width_mm=width_mm, height_mm=height_mm, bend_radius_mm=bend_radius_mm)


def reached(lead_m: float) -> Machine:
    """A switch whose own leads of a length go 1 m to an input."""
    build = small.powered_controller()
    build.device("B1", "osier-rl2", "Limit", None)
    build.join("B1:LEADS", "K1:IN 5", "COM-1 NC-2")
    machine = small.with_part(
        build.machine,
        "osier-rl2",
        lambda part: replace(
            part, ports=tuple(replace(port, lead_length_m=lead_m) for port in part.ports)
        ),
    )
    return routed(machine, {"B1": "end", "K1": "box", "G1": "box"}, run(length_m=1.0))


def by_hand(*runs: str) -> Machine:
    """A cable that is laid by hand, between three places in a row."""
    machine = routed(fan_on_a_run(), {}, run("R1", "box", "mid"), run("R2", "mid", "end"))
    return cable_edits.set_cable_runs(machine, "W1", runs)


def of_cores(cores: tuple[int, ...], part: str = "flex-2x0.5") -> Machine:
    """A fan on the given cores of a cable."""
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24")
    build.cable("W1", part, 1.0)
    build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", "W1", " ".join(map(str, cores)))
    return build.machine


def spare_core(**cable) -> Machine:
    return small.with_cable(of_cores((1, 2), "flex-3x0.5"), "W1", **cable)


def crimped(core_mm2: float) -> Machine:
    """A switch on crimp contacts that take up to 0.5 mm2, by cores of a cross-section."""
    build = small.powered_controller()
    build.device("B1", "osier-rl2", "Limit", None)
    build.cable("W1", "flex-2x0.5", 1.0)
    build.join("B1:LEADS", "K1:IN 5", "COM-1 NC-2", "W1")
    return replace(
        build.machine,
        cable_parts=tuple(replace(p, core_mm2=core_mm2) for p in build.machine.cable_parts),
    )


def encoder_on(cores: str) -> Machine:
    """A differential encoder on cores of a cable in pairs: A, A−, B."""
    build = small.bench("B1 larkmoor-e1000", "K1 quoin-dr3")
    build.cable("W1", "pair-4x2x0.14", 1.0)
    build.join("B1:LEADS", "K1:ENCODER", "A-A A−-A− B-B", "W1", cores)
    return build.machine


def twins(second: str) -> Machine:
    """Plus on a brown wire and 0 V on a wire of another colour, in one terminal of a strip."""
    build = small.bench("G1 fell-ps24", "X1 quoin-ts8")
    build.cable("W1", "wire-bn-0.5", 1.0)
    build.cable("W2", second, 1.0)
    build.join("G1:OUT", "X1:1", "1-+", "W1")
    build.join("G1:OUT", "X1:1", "2-0V", "W2")
    return build.machine


def side_by_side(shield: bool) -> Machine:
    """A motor and an encoder through one run, the motor's cable shielded or not."""
    build = small.bench("M1 fell-s57", "T1 fell-d72", "B1 larkmoor-e1000", "K1 quoin-dr3")
    build.cable("W1", "motor-4x1", 2.0)
    build.join("M1:LEADS", "T1:MOTOR", "BK-1 GN-2 RD-3 BU-4", "W1")
    build.cable("W2", "pair-4x2x0.14", 2.0)
    build.join("B1:LEADS", "K1:ENCODER", "A-A A−-A−", "W2")
    machine = build.machine
    if shield:
        ends = tuple(map(small.at, ("T1:MOTOR", "M1:LEADS")))
        machine = small.with_cable(machine, "W1", shield_to=ends)
    places = {"M1": "end", "B1": "end", "T1": "box", "K1": "box"}
    return routed(machine, places, run())


def mains_beside(cable: str, pins: str) -> Machine:
    """Mains by a cable through a run, beside a 24 V cable."""
    build = small.bench("X4 quoin-mt4", "G1 fell-ps24", "M1 quoin-bf24")
    build.cable("W1", cable, 2.0)
    build.join("X4:1", "G1:MAINS", pins, "W1")
    build.cable("W2", "flex-2x0.5", 2.0)
    build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", "W2")
    return routed(build.machine, {"X4": "box", "G1": "end", "M1": "box"}, run())


def held(at_end: bool, moving: bool = True) -> Machine:
    machine = fan_on_a_run(moving=moving)
    return route_edits.change_place(machine, "end", strain_relief=at_end)


def jointed(**second) -> Machine:
    """A plug between two runs, of which the first moves with X."""
    build = small.bench("M1 fell-s57", "T1 fell-d72", "X1 quoin-il4")
    build.join("M1:LEADS", "X1:A", "BK-1 GN-2 RD-3 BU-4")
    build.cable("W1", "motor-4x1", None)
    build.join("X1:B", "T1:MOTOR", "1-1 2-2 3-3 4-4", "W1")
    machine = small.with_axis(build.machine, drives=("M1",))
    machine = routed(
        machine, {"M1": "end", "T1": "box", "X1": "mid"},
        run("R1", "box", "mid", moving=True, axis="X"),
        run("R2", "mid", "end", **second),
    )  # fmt: skip
    return route_edits.change_place(machine, "mid", strain_relief=False)


def unlabelled() -> Machine:
    """One wire, labelled by an axis, where no axis is."""
    build = small.bench("G1 fell-ps24", "X1 quoin-ts8")
    build.cable("W1", "wire-bn-0.5", 1.0)
    build.join("G1:OUT", "X1:1", "1-+", "W1")
    return note_edits.set_label_templates(build.machine, LabelTemplates(core="{axis}"))


# Six cables of 5.1 mm are 122.57 mm2; 60 % of 12 x 17.03 is 122.6, of 12 x 17.02 122.5.
FULL, ROOMY = chain(12, 17.02), chain(12, 17.03)
CASES: dict[str, tuple[Made, Made]] = {
    "harness.no-label": (unlabelled, small.cabled_fan),
    "harness.no-cable": (
        # An own board whose plugs nobody named wants one as well.
        lambda: replace(
            small.with_part(
                small.shielded_encoder(),
                "larkmoor-e1000",
                lambda part: replace(
                    part,
                    ports=tuple(
                        replace(port, connector=None, lead_length_m=0.0) for port in part.ports
                    ),
                ),
            ),
            cables=(),
            hookups=tuple(
                replace(hookup, cable=None) for hookup in small.shielded_encoder().hookups
            ),
        ),
        small.shielded_encoder,
    ),
    "harness.no-length": (
        lambda: route_edits.put_device(fan_on_a_run(), "M1", None),
        fan_on_a_run,
    ),
    # 2 m and two ends of 0.05 m; moving 5 % more.
    "harness.short-cable": (lambda: fan_on_a_run(2.09), lambda: fan_on_a_run(2.1)),
    # 1 m and 0.15 m for the ends.
    "harness.short-lead": (lambda: reached(1.14), lambda: reached(1.15)),
    "harness.route-broken": (lambda: by_hand("R1"), lambda: by_hand("R1", "R2")),
    "harness.few-cores": (lambda: of_cores((1, 1)), lambda: of_cores((1, 2))),
    "harness.unused-cores": (spare_core, lambda: spare_core(spares="insulated")),
    "harness.contact-gauge": (lambda: crimped(0.51), lambda: crimped(0.5)),
    "harness.pair-mixed": (lambda: encoder_on("1 3 4"), lambda: encoder_on("1 2 3")),
    "harness.fixed-cable": (
        lambda: fan_on_a_run(cable="flat-2x0.25", moving=True),
        lambda: fan_on_a_run(cable="flat-2x0.25"),
    ),
    "harness.same-colour": (lambda: twins("wire-bn-0.5"), lambda: twins("wire-bu-0.5")),
    "harness.chain-full": (lambda: cabled(6, 5.1, FULL), lambda: cabled(6, 5.1, ROOMY)),
    # 90 % of 10 mm.
    "harness.chain-height": (
        lambda: cabled(1, 9.01, chain(40, 10)),
        lambda: cabled(1, 9.0, chain(40, 10)),
    ),
    # The cable wants 38 mm.
    "harness.bend-radius": (
        lambda: cabled(1, 5.1, chain(40, 10, 37.9)),
        lambda: cabled(1, 5.1, chain(40, 10, 38)),
    ),
    "harness.motor-encoder": (lambda: side_by_side(False), lambda: side_by_side(True)),
    "harness.mains-duct": (
        lambda: mains_beside("wire-bn-0.5", "L-L"),
        lambda: mains_beside("mains-3x1.5", "L-L N-N PE-PE"),
    ),
    "harness.strain-relief": (lambda: held(False), lambda: held(True)),
    "harness.joint-moves": (lambda: jointed(moving=True, axis="X"), lambda: jointed(moving=False)),
}


def with_unknown_bend(radius_mm: float) -> Machine:
    """A cable of 5 mm that gives no bend radius, in a chain: it wants ten diameters."""
    return cabled(1, 5.0, chain(40, 10, radius_mm), bend_radius_mm=None)


def part_of(machine: Machine, cable: str) -> CablePart:
    """The part of a cable."""
    found = next(known for known in machine.cables if known.id == cable)
    return next(part for part in machine.cable_parts if part.id == found.part)
