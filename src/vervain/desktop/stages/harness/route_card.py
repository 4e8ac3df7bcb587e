"""Facts of a place, of a run and of a cable's way on the card, editable in place."""

from functools import partial

from vervain.desktop.session import Session
from vervain.desktop.shared.property_rows import FactRows
from vervain.edits import cable_edits, route_edits
from vervain.harness.cable_routes import cable_route
from vervain.harness.lengths import cable_length
from vervain.harness.route_tree import devices_at, root_place
from vervain.model.cable_part import CablePart
from vervain.model.machine import Cable
from vervain.model.place import Chain, Place, Run
from vervain.tables.cell_edits import OPEN, SPARES
from vervain.text.quantities import NotAQuantity, read_quantity
from vervain.text.units import in_length, read_length_m
from vervain.text.words import count_of

YES_NO = ("no", "yes")
NONE = "nothing"
LENGTH_HINT = "Try “1.8 m”, “180 cm” or “6 ft”."
ALLOWANCES = (
    ("Loop in a box", "box_loop_m"),
    ("Loop elsewhere", "loop_m"),
    ("At each end", "end_m"),
    ("Rounded up to", "step_m"),
)
RATIOS = (("Slack where it moves", "slack_ratio"), ("Bought over", "spare_ratio"))


def _length(session: Session, text: str) -> float | None:
    """A length in m; None where it is not understood, which is said."""
    try:
        return read_length_m(text)
    except NotAQuantity as wrong:
        session.say(f"{wrong} {LENGTH_HINT}")
        return None


def show_place(card: FactRows, session: Session, place: Place) -> None:
    """What a place is like, and what sits there."""
    card.title.setText(place.name)

    def change(words: str, **values: object) -> bool:
        return session.apply(words, lambda m: route_edits.change_place(m, place.id, **values))

    name = card.field(place.name, lambda text: change(f"Place {text}", name=text), "Place name")
    card.row("Name", name)
    closed = card.choice(
        YES_NO,
        YES_NO[place.closed],
        lambda text: change(f"{place.name}: closed box {text}", closed=text == "yes"),
        "Closed box",
    )
    card.row("Closed box", closed)
    held = card.choice(
        YES_NO,
        YES_NO[place.strain_relief],
        lambda text: change(f"Cables held at {place.name}: {text}", strain_relief=text == "yes"),
        "Cables held here",
    )
    card.row("Cables held here", held)

    def take_inside(text: str) -> bool:
        if not text.strip():
            return change(f"Wires inside {place.name}: not known", inside_m=None)
        length_m = _length(session, text)
        if length_m is None:
            return False
        return change(f"Wires inside {place.name}: {in_length(length_m)}", inside_m=length_m)

    shown = in_length(place.inside_m) if place.inside_m is not None else ""
    field = card.field(shown, take_inside, "Usual wire inside")
    field.setPlaceholderText("not known")
    card.row("Usual wire inside", field)
    card.row("Devices", ", ".join(devices_at(session.queries).get(place.id, ())) or "none")
    if place.id == root_place(session.queries):
        _show_allowances(card, session)


def _show_allowances(card: FactRows, session: Session) -> None:
    """What every cable gets beside its route."""
    allowances = session.machine.allowances

    def take_length(key: str, title: str, text: str) -> bool:
        length_m = _length(session, text)
        if length_m is None:
            return False
        words = f"{title}: {in_length(length_m)}"
        return session.apply(words, lambda m: route_edits.set_allowances(m, **{key: length_m}))

    def take_ratio(key: str, title: str, text: str) -> bool:
        try:
            ratio = read_quantity(text.replace("%", ""), "") / 100
        except NotAQuantity as wrong:
            session.say(f"{wrong} Try “5 %”.")
            return False
        words = f"{title}: {ratio:.0%}"
        return session.apply(words, lambda m: route_edits.set_allowances(m, **{key: ratio}))

    for title, key in ALLOWANCES:
        shown = in_length(getattr(allowances, key))
        card.row(title, card.field(shown, partial(take_length, key, title), title))
    for title, key in RATIOS:
        shown = f"{getattr(allowances, key) * 100:g} %"
        card.row(title, card.field(shown, partial(take_ratio, key, title), title))


def read_chain(text: str) -> Chain | None:
    """A chain from "36 × 17, 75": inner width × height, bending radius, in mm. None where it is not
    understood.
    """
    cleaned = text.replace("mm", "").replace("radius", "").replace("x", "×")
    size, _, radius = cleaned.partition(",")
    width, _, height = size.partition("×")
    try:
        numbers = [float(part.strip()) for part in (width, height, radius)]
    except ValueError:
        return None
    if min(numbers) <= 0:
        return None
    return Chain(width_mm=numbers[0], height_mm=numbers[1], bend_radius_mm=numbers[2])


def show_run(card: FactRows, session: Session, run: Run) -> None:
    """How long a run is, and how it moves."""
    ends = [
        place.name if (place := session.queries.place(end)) is not None else end
        for end in (run.a, run.b)
    ]
    card.title.setText(f"{run.id}  {ends[0]} to {ends[1]}")

    def change(words: str, **values: object) -> bool:
        return session.apply(words, lambda m: route_edits.change_run(m, run.id, **values))

    def take_length(text: str) -> bool:
        length_m = _length(session, text)
        if length_m is None:
            return False
        words = f"Length of {run.id}: {in_length(run.length_m)} to {in_length(length_m)}"
        return change(words, length_m=length_m)

    card.row("Length", card.field(in_length(run.length_m), take_length, "Length of the run"))
    moves = card.choice(
        YES_NO,
        YES_NO[run.moving],
        lambda text: change(f"{run.id} {'moves' if text == 'yes' else 'is fixed'}",
                            moving=text == "yes"),
        "Moves",
    )  # fmt: skip
    card.row("Moves", moves)
    axes = (NONE, *session.queries.axes())
    with_axis = card.choice(
        axes,
        run.axis or NONE,
        lambda text: change(f"{run.id} moves with {text}", axis=None if text == NONE else text),
        "Moves with",
    )
    card.row("Moves with", with_axis)
    coiled = card.choice(
        YES_NO,
        YES_NO[run.coiled],
        lambda text: change(f"{run.id} coiled: {text}", coiled=text == "yes", chain=None),
        "Coiled",
    )
    card.row("Coiled", coiled)

    def take_chain(text: str) -> bool:
        chain = read_chain(text) if text.strip() else None
        if chain is None and text.strip():
            session.say("A chain is width × height, radius in mm: “36 × 17, 75”.")
            return False
        words = f"Chain of {run.id}: {text.strip() or 'none'}"
        return session.apply(words, partial(route_edits.set_chain, run_id=run.id, chain=chain))

    shown = ""
    if run.chain is not None:
        chain = run.chain
        shown = f"{chain.width_mm:g} × {chain.height_mm:g}, {chain.bend_radius_mm:g}"
    field = card.field(shown, take_chain, "Chain: width × height, radius")
    field.setPlaceholderText("none")
    card.row("Chain, mm", field)
    entry = card.field(
        run.entry,
        lambda text: change(f"{run.id} enters by {text or 'nothing'}", entry=text.strip()),
        "Entry",
    )
    entry.setPlaceholderText("none")
    card.row("Through the wall by", entry)


def show_cable(card: FactRows, session: Session, cable: Cable, part: CablePart) -> None:
    """A cable's measured length, its way, and what is done with its spare cores."""
    length = cable_length(session.queries, cable.id)

    def take_length(text: str) -> bool:
        length_m = _length(session, text) if text.strip() else None
        if text.strip() and length_m is None:
            return False
        words = f"Length of {cable.id}: {text.strip() or 'as its route comes to'}"
        return session.apply(
            words, lambda m: cable_edits.set_cable(m, cable.id, length_m, cable.note)
        )

    shown = in_length(cable.length_m) if cable.length_m is not None else ""
    field = card.field(shown, take_length, "Length")
    known = f"{in_length(length.cut_m)} by its route" if length.cut_m is not None else "not given"
    field.setPlaceholderText(known)
    card.row("Measured length", field)
    route = cable_route(session.queries, cable.id)

    def take_runs(text: str) -> bool:
        runs = tuple(text.replace(",", " ").split())
        words = f"{cable.id} through {', '.join(runs) or 'the shortest way'}"
        return session.apply(
            words, partial(cable_edits.set_cable_runs, cable_id=cable.id, runs=runs)
        )

    runs = card.field(" ".join(cable.runs), take_runs, "Runs")
    runs.setPlaceholderText(" ".join(route.runs) or "none")
    card.row("Laid through", runs)
    sleeve = card.choice(
        YES_NO,
        YES_NO[cable.own_sleeve],
        lambda text: session.apply(
            f"A sleeve of its own for {cable.id}: {text}",
            lambda m: cable_edits.set_own_sleeve(m, cable.id, text == "yes"),
        ),
        "Sleeve of its own",
    )
    card.row("Sleeve of its own", sleeve)
    used = cable_edits.used_cores(session.machine, cable.id)
    if len(used) < len(part.cores):
        words = tuple(word or OPEN for word in SPARES)

        def take_spares(text: str) -> None:
            spares = SPARES[words.index(text)]
            session.apply(
                f"Spare cores of {cable.id}: {text}",
                partial(cable_edits.set_spares, cable_id=cable.id, spares=spares),
            )

        count = len(part.cores) - len(used)
        choice = card.choice(words, cable.spares or OPEN, take_spares, "Spare cores")
        card.row(count_of(count, "spare core"), choice)
