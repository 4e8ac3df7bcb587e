"""Random edits of the demo, for properties that must hold after any of them."""

from hypothesis import strategies as st

from vervain.edits import cable_edits, device_edits, note_edits
from vervain.model.machine import LabelTemplates, Machine, PortRef
from vervain.model.problem import Problem
from vervain.ports.plugging import plug_in, unplug

DEVICES = ("B1", "B7", "B10", "M4", "M7", "T2", "K1", "X18", "F4", "S2")
INPUTS = tuple(f"IN {number}" for number in range(1, 9))
LEADS = {name: PortRef(device=name, port="LEADS") for name in ("B1", "B7", "B10", "B8", "M6")}


def k1(port: str) -> PortRef:
    """A port of the demo's controller."""
    return PortRef(device="K1", port=port)


def a_change():
    """One edit as (words, function of the machine)."""
    device = st.sampled_from(sorted(LEADS))
    return st.one_of(
        st.tuples(st.just("take off"), device).map(lambda t: (t, lambda m: unplug(m, LEADS[t[1]]))),
        st.tuples(st.just("put"), device, st.sampled_from(INPUTS)).map(
            lambda t: (t, lambda m: plug_in(m, LEADS[t[1]], k1(t[2])))
        ),
        st.tuples(st.just("fuse"), st.sampled_from((1.0, 5.0, 10.0))).map(
            lambda t: (t, lambda m: device_edits.set_setting(m, "F4", "rating_a", t[1]))
        ),
        st.tuples(st.just("current"), st.sampled_from(("T1", "T2")), st.floats(0.5, 7.2)).map(
            lambda t: (t, lambda m: device_edits.set_setting(m, t[1], "current_peak_a", t[2]))
        ),
        st.tuples(st.just("jumper"), st.sampled_from(("NPN", "PNP"))).map(
            lambda t: (t, lambda m: device_edits.set_setting(m, "K1", "JP1", t[1]))
        ),
        st.tuples(st.just("remove"), st.sampled_from(DEVICES)).map(
            lambda t: (t, lambda m: device_edits.remove_device(m, t[1]))
        ),
        st.tuples(st.just("rename"), st.sampled_from(DEVICES), st.integers(1, 99)).map(
            lambda t: (t, lambda m: device_edits.set_designator(m, t[1], f"{t[1][0]}{t[2]}"))
        ),
        st.tuples(st.just("name"), st.sampled_from(DEVICES), st.text(max_size=90)).map(
            lambda t: (t, lambda m: device_edits.set_name(m, t[1], t[2]))
        ),
        st.tuples(st.just("label"), st.integers(1, 4), st.text(max_size=12)).map(
            lambda t: (t, lambda m: cable_edits.set_core_label(m, "W14", t[1], t[2]))
        ),
        st.tuples(st.just("length"), st.floats(0.001, 1000)).map(
            lambda t: (t, lambda m: cable_edits.set_cable(m, "W14", t[1], ""))
        ),
        st.tuples(
            st.just("form"), st.sampled_from(("{cable}.{core}", "{device}", "{far}{pin}"))
        ).map(
            lambda t: (t, lambda m: note_edits.set_label_templates(m, LabelTemplates(core=t[1])))
        ),
    )


def applied(machine: Machine, change) -> Machine:
    """The machine after a change; the same where the change is refused."""
    try:
        return change[1](machine)
    except Problem:
        return machine
