"""A large machine for tests and benchmarks: controllers with everything plugged in, many times."""

from msgspec.structs import replace

from builder import Builder
from vervain.model.axis import Axis
from vervain.model.machine import Machine
from vervain.model.place import Place

PER_CONTROLLER = 19


def large_machine(devices: int) -> Machine:
    """A machine of at least so many devices: each controller with supplies, drivers, motors and
    switches of its own, every core labelled.
    """
    build = Builder(Machine(name=f"{devices} devices", places=(Place(id="box", name="Box"),)))
    axes: list[Axis] = []
    blocks = max(1, -(-devices // PER_CONTROLLER))
    for block in range(blocks):
        _block(build, block, axes)
    return replace(build.machine, axes=tuple(axes))


def plant(axes: int, trunks: int = 3) -> Machine:
    """A machine of so many axes (in fives), with trunk cables of twelve cores between in-line
    connectors beside each: 49 conductors an axis with three trunks.
    """
    build = Builder(Machine(name=f"{axes} axes", places=(Place(id="box", name="Box"),)))
    made: list[Axis] = []
    straight = " ".join(f"{n}-{n}" for n in range(1, 13))
    for block in range(-(-axes // 5)):
        _block(build, block, made)
        for number in range(5 * trunks):
            first = 1000 * (block + 1) + 2 * number
            for connector in (f"X{first}", f"X{first + 1}"):
                build.device(connector, "quoin-il12", f"Trunk {connector}", "box")
            build.join(f"X{first}:B", f"X{first + 1}:A", straight)
    return replace(build.machine, axes=tuple(made))


def _block(build: Builder, block: int, axes: list[Axis]) -> None:
    controller, strip = f"K{block + 1}", f"X{block + 1}"
    first = block * 5
    build.device(controller, "tarn-mc5", f"Controller {block + 1}", "box")
    build.device(f"G{2 * block + 1}", "fell-ps48", "48 V", "box")
    build.device(f"G{2 * block + 2}", "fell-ps24", "24 V", "box")
    build.device(strip, "quoin-ts8", "48 V strip", "box")
    build.cable(f"W{block}001", "pair-rdbk-2.5", 0.5)
    build.join(f"G{2 * block + 1}:OUT", f"{strip}:1", "1-+ 2-0V", f"W{block}001")
    build.cable(f"W{block}002", "pair-bnbu-0.75", 0.5)
    build.join(f"G{2 * block + 2}:OUT", f"{controller}:POWER", "1-24V 2-0V", f"W{block}002")
    for number in range(1, 6):
        axis = first + number
        name = f"{block + 1}{number}"
        build.device(f"T{axis}", "fell-d72", f"Driver {axis}", "box")
        build.device(f"M{axis}", "fell-s57", f"Motor {axis}", None)
        build.device(f"B{axis}", "larkmoor-ip12", f"Home {axis}", None)
        build.cable(f"W{name}1", "flat-4x0.25", 0.6)
        pins = "1-1 2-2 3-3 4-4"
        build.join(f"{controller}:AXIS {number}", f"T{axis}:SIGNAL", pins, f"W{name}1")
        build.cable(f"W{name}2", "motor-4x1", 4.0)
        build.join(f"M{axis}:LEADS", f"T{axis}:MOTOR", "BK-1 GN-2 RD-3 BU-4", f"W{name}2")
        build.cable(f"W{name}3", "pair-rdbk-2.5", 0.5)
        build.join(f"{strip}:{number + 1}", f"T{axis}:POWER", "+-48V 0V-0V", f"W{name}3")
        build.cable(f"W{name}4", "flex-3x0.34", 5.0)
        pins = "+-24V OUT-IN −-0V"
        build.join(f"B{axis}:LEADS", f"{controller}:IN {number + 2}", pins, f"W{name}4")
        axes.append(Axis(id=f"A{axis}", name="axis", drives=(f"M{axis}",), home=f"B{axis}"))
