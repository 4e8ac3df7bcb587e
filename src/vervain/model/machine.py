"""The machine: the whole document as one immutable value."""

from typing import Annotated, Literal, get_args

import msgspec
from msgspec import Meta

from vervain.model.axis import Axis, Homing
from vervain.model.base import Name, NotNegative, Positive, PositiveMetres, Record
from vervain.model.bench_result import BenchResult
from vervain.model.cable_part import CablePart
from vervain.model.marks import MARK_FIGURES
from vervain.model.measurements import Meter, Reading, SeriesTest, Trial
from vervain.model.orientation import Turn
from vervain.model.part import Part
from vervain.model.place import Allowances, Place, Run
from vervain.model.subject import Subject, finding_key

FORMAT = "vervain machine"
VERSION = 2
# A sign or the three letters of ISO 4217, with room for a longer word.
MOST_CURRENCY = 6
DESIGNATOR_PATTERN = r"^[A-Z]{1,2}[0-9]{1,4}$(?!\n)"

OperatingState = Literal["idle", "holding", "moving", "everything", "start"]
Designator = Annotated[str, Meta(pattern=DESIGNATOR_PATTERN)]
Mark = Annotated[str, Meta(max_length=MARK_FIGURES)]
SettingValue = str | float | bool
AtStop = Literal["", "goes", "stays"]
Spares = Literal["", "insulated", "cut back", "earthed"]
MakingStep = Literal["cut", "made", "labelled", "laid", "tested"]
MAKING_STEPS: tuple[MakingStep, ...] = get_args(MakingStep)


class PortRef(Record, array_like=True, frozen=True, kw_only=True):
    """A port of a device, written [device, port]."""

    device: str
    port: str


class PinRef(Record, array_like=True, frozen=True, kw_only=True):
    """A pin of a port of a device, written [device, port, pin]."""

    device: str
    port: str
    pin: str

    @property
    def port_ref(self) -> PortRef:
        """The port that the pin belongs to."""
        return PortRef(device=self.device, port=self.port)


class Device(Record, frozen=True, kw_only=True):
    """A part placed on the machine. `coils` are the leads that were measured to belong together;
    the checks believe them before the part's colours. `coils_printed` says that they were taken
    from what is printed on the motor instead, and nothing was measured. `turned_deg` and
    `turned_over` are how its board lies on the bench, clockwise from how its part draws it.
    `at_stop` says whether it must be without power after an emergency stop, where not its kind.
    `measured_a` is the current that was measured in its feed, by operating state; `kept_ports` says
    of ports that are kept free what they are kept for; `address` where a controller answers on the
    network: host, host:port or host:port/unit.
    """

    designator: Designator
    name: Name
    part: Name
    place: str | None = None
    turned_deg: Turn = 0
    turned_over: bool = False
    settings: dict[str, SettingValue] = msgspec.field(default_factory=dict)
    measured_a: dict[OperatingState, NotNegative] = msgspec.field(default_factory=dict)
    at_stop: AtStop = ""
    kept_ports: dict[Name, Name] = msgspec.field(default_factory=dict)
    address: Annotated[str, Meta(max_length=120)] = ""
    readings: tuple[Reading, ...] = ()
    coils: tuple[tuple[str, ...], ...] = ()
    coils_printed: bool = False
    series_tests: tuple[SeriesTest, ...] = ()
    trials: tuple[Trial, ...] = ()
    note: str = ""


class Conductor(Record, frozen=True, kw_only=True):
    """One pin-to-pin connection of a hookup: pin of `a`, pin of `b`, and the core that makes it.

    Without a core it is the device's own lead, a plug or a short link.
    """

    a: str
    b: str
    core: Annotated[int, Meta(ge=1)] | None = None
    note: str = ""


class Hookup(Record, frozen=True, kw_only=True):
    """One port joined to another port with its pin-to-pin map, by a cable or directly."""

    id: Name
    a: PortRef
    b: PortRef
    conductors: tuple[Conductor, ...] = ()
    cable: str | None = None


def ends_of(hookup: Hookup, conductor: Conductor) -> tuple[PinRef, PinRef]:
    """The two pins of a conductor: at side a and at side b of its hookup."""
    return (
        PinRef(device=hookup.a.device, port=hookup.a.port, pin=conductor.a),
        PinRef(device=hookup.b.device, port=hookup.b.port, pin=conductor.b),
    )


class CoreMark(Record, frozen=True, kw_only=True):
    """What the builder wrote on one core instead of what the template gives."""

    core: Annotated[int, Meta(ge=1)]
    label: Name


class Cable(Record, frozen=True, kw_only=True):
    """A cable of the machine. `attached_to` is the port where its far end stays crimped.

    `length_m` was measured, or bought ready-made, and goes before what its route comes to; `runs`
    are its route where it is not the shortest. `spares` says what is done with unused cores;
    `own_sleeve` that it has a braided sleeve of its own beside the others on its way. `done` are
    the steps of its making that are ticked, each with the mark of what it rested on.
    """

    id: Name
    part: Name
    length_m: PositiveMetres | None = None
    attached_to: PortRef | None = None
    shield_to: tuple[PortRef, ...] = ()
    marks: tuple[CoreMark, ...] = ()
    runs: tuple[str, ...] = ()
    spares: Spares = ""
    own_sleeve: bool = False
    done: dict[MakingStep, Mark] = msgspec.field(default_factory=dict)
    note: str = ""


class Reel(Record, frozen=True, kw_only=True):
    """A rest or a reel of cable that the builder has: the cable part, and how much is on it."""

    id: Name
    part: Name
    length_m: PositiveMetres


class Purchase(Record, frozen=True, kw_only=True):
    """How an item of the cut list is bought: its maker's number, from which supplier by which
    number, and how many pieces or metres are in a pack.
    """

    makers_number: str = ""
    supplier: str = ""
    number: str = ""
    pack: Positive | None = None


class AlternateSetting(Record, frozen=True, kw_only=True):
    """A setting of a device while an alternate is in."""

    device: str
    key: str
    value: SettingValue


class Alternate(Record, frozen=True, kw_only=True):
    """A second device that takes over a port by swapping a plug.

    `settings` are those that hold while it is in, each by [device, setting]; `homing_off` says that
    its axis is not homed then; `homing_back` what the homing of the other's axis goes back to.
    """

    device: str
    port: PortRef
    settings: tuple[AlternateSetting, ...] = ()
    homing_off: bool = False
    homing_back: Homing | None = None


class Acceptance(Record, frozen=True, kw_only=True):
    """A finding that the builder accepts as it is, with the reason and the day (ISO 8601): its
    rule, what the rule was asked `about`, what else it is `at`, and the `detail` in words. It
    follows every other name that these get, and goes with them.
    """

    rule: Name
    about: Subject = Subject()
    at: tuple[Subject, ...] = ()
    detail: str = ""
    reason: Name
    day: str

    @property
    def key(self) -> str:
        """The key of the finding that it accepts."""
        return finding_key(self.rule, self.about, self.at, self.detail)


class Paper(Record, frozen=True, kw_only=True):
    """What was printed: its `form`, the day (ISO 8601), the revision and the fingerprint that stand
    on it, and by the title of each table or sheet the mark of what it showed.
    """

    form: Name
    day: str
    revision: str = ""
    fingerprint: str = ""
    shows: dict[str, Mark] = msgspec.field(default_factory=dict)


class LabelTemplates(Record, frozen=True, kw_only=True):
    """How conductor labels are made; the form is documented in docs/labels.md."""

    core: str = "{cable}[.{core}]"
    lead: str = "{device}.{pin}"


class Machine(Record, frozen=True, kw_only=True):
    """Everything in one file. Lists keep the builder's order; identifiers are unique in a list.
    `ambient_c` is the temperature around its cables; `printed` what stands on the labels that were
    printed, so that only the changed ones are printed again; `prices` are by item of the cut list,
    in money of `currency`, `purchases` how they are bought. `revision` and `author` stand on
    every print; `page` is the address that the page for the phone has, which build sheets point to;
    `papers` is the last print of each form; `bench_results` what was seen at the bench, the last of
    each step.
    """

    name: Name
    state: str = ""
    revision: Annotated[str, Meta(max_length=20)] = ""
    author: Annotated[str, Meta(max_length=80)] = ""
    page: Annotated[str, Meta(max_length=200)] = ""
    label_templates: LabelTemplates = LabelTemplates()
    meter: Meter = Meter()
    ambient_c: Annotated[float, Meta(ge=-40, lt=70)] = 40.0
    allowances: Allowances = Allowances()
    places: tuple[Place, ...] = ()
    runs: tuple[Run, ...] = ()
    axes: tuple[Axis, ...] = ()
    devices: tuple[Device, ...] = ()
    alternates: tuple[Alternate, ...] = ()
    hookups: tuple[Hookup, ...] = ()
    cables: tuple[Cable, ...] = ()
    accepted: tuple[Acceptance, ...] = ()
    printed: tuple[str, ...] = ()
    papers: tuple[Paper, ...] = ()
    bench_results: tuple[BenchResult, ...] = ()
    reels: tuple[Reel, ...] = ()
    currency: Annotated[str, Meta(max_length=MOST_CURRENCY)] = ""
    prices: dict[str, NotNegative] = msgspec.field(default_factory=dict)
    purchases: dict[str, Purchase] = msgspec.field(default_factory=dict)
    parts: tuple[Part, ...] = ()
    cable_parts: tuple[CablePart, ...] = ()
