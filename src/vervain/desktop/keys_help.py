"""Every key of the window, with what it does: the help lists them, and the menus send them."""

from dataclasses import dataclass


@dataclass(frozen=True)
class KeyEntry:
    """A key of an area. `needs` names what has to be selected for it to do anything: a field of the
    selection. What a menu cannot send, such as "arrows", is not in one.
    """

    area: str
    words: str
    keys: str
    needs: str = ""

    @property
    def is_sent(self) -> bool:
        """Whether a menu can send it: one key or combination, not a family of them."""
        last = self.keys.rsplit("+", 1)[-1]
        return len(last) == 1 or last in SENT


SENT = ("Enter", "Esc", "Del", "Space", "Backspace", "F1", "F2", "F6")
EVERYWHERE, MACHINE, LEADS, PORTS, SUPPLY, STOPS, HARNESS, ROUTE, BENCH = (
    "Everywhere", "Machine", "Leads", "Ports", "Supply", "Stops", "Harness", "Route", "Bench",
)  # fmt: skip

_TABLE = {
    EVERYWHERE: (
        ("Go to a stage", "Alt+1 to 7"),
        ("Jump to a device, port, label, finding, part or action", "Ctrl+K"),
        ("Trace a label", "Ctrl+L"),
        ("Type a wire from pin to pin", "Ctrl+J"),
        ("Go to the next pane", "F6"),
        ("Add a device", "Ctrl+Shift+A"),
        ("Undo", "Ctrl+Z"),
        ("Redo", "Ctrl+Shift+Z"),
        ("All steps", "Ctrl+H"),
        ("Do the fix of the open finding", "Alt+Enter"),
        ("The machine's menu", "Alt+M"),
        ("Rename the machine, or change a cell", "F2"),
        ("New empty machine", "Ctrl+N"),
        ("Open a machine", "Ctrl+O"),
        ("Save", "Ctrl+S"),
        ("Save as", "Ctrl+Shift+S"),
        ("Versions of the file", "Ctrl+Shift+H"),
        ("Export", "Ctrl+E"),
        ("Print", "Ctrl+P"),
        ("Filter", "Ctrl+F"),
        ("Text size", "Ctrl++ and Ctrl+−"),
        ("Guide to the stage, drawn of the window as it is", "Shift+F1"),
        ("Explain what is under the mouse or selected; again: all keys", "F1"),
    ),
    MACHINE: (
        ("Go from place to place", "arrows"),
        ("Take the device in hand, or find parts for an empty place or axis", "Enter"),
        ("In hand: put it back", "Esc"),
        ("Take out", "Del", "device"),
        ("Open the card", "Space"),
        ("Add an axis", "A"),
        ("Copy the device or axis", "C"),
        ("Turn the motor the other way round", "M", "device"),
        ("Move the device or axis", "Ctrl+up and down"),
        ("Describe a new part", "D"),
        ("Make a part like this one, or change your own", "L"),
    ),
    LEADS: (
        ("Take a reading in ohms", "a number, Enter"),
        ("Take what the meter shows", "Space"),
        ("The pair is open", "O"),
        ("The pair conducts", "S"),
        ("Take a reading back", "Backspace"),
        ("Keep the coils", "T"),
        ("Choose how the windings are used", "U"),
        ("Take the colours of the datasheet", "P"),
        ("Probe against the body", "B"),
        ("Pick any pair", "left and right, with Shift the second"),
        ("Go to the readings", "up"),
        ("Put the leads of a motor that runs wrong in order", "R"),
    ),
    PORTS: (
        ("Go from port to port", "arrows"),
        ("Go from pin to pin", "Shift+arrows"),
        ("Pick up the plug, or put it down", "Enter", "device"),
        ("In hand: put down the plug alone, or join against advice", "Ctrl+Enter"),
        ("In hand: put it back", "Esc"),
        ("Take the end of a wire in hand from this pin", "J", "pin"),
        ("Put something into the wire at this pin", "I", "pin"),
        ("In hand: lead the wire at the other pin through this one", "I"),
        ("In hand: join both ends beside the other contact", "B"),
        ("In hand: aim at an answer of the list", "1 to 9"),
        ("Take the plug off, or the lead at this pin", "Del", "device"),
        ("Carry a conductor to the next pin", "Ctrl+arrows"),
        ("Join a conductor to the next pin as well", "Ctrl+Shift+arrows"),
        ("Turn the plug round", "X", "port"),
        ("Fill in the rest", "F"),
        ("Settings", "S"),
        ("Turn the board a quarter", "R", "device"),
        ("Turn the board over", "V", "device"),
        ("Look closer at the port", "Z", "port"),
        ("In hand: keep it as an alternate there", "A"),
        ("Swap an alternate in", "W", "device"),
        ("Keep the port free for something", "K", "port"),
        ("Show the colours at the far end", "C"),
        ("Open the card", "Space", "device"),
        ("Zoom, and back", "+ and −, 0"),
    ),
    SUPPLY: (
        ("Show an operating state", "1 to 5"),
        ("Go along the feeds", "arrows"),
        ("Take the feed, negative or earth in hand, or put it down", "Enter", "device"),
        ("Feed the rest", "F"),
        ("Put a fuse into the feed", "U", "device"),
        ("Take the gauge that it wants", "G", "device"),
        ("Take the feed off", "Del", "device"),
        ("Show the current along the feed, or the voltage", "P", "device"),
        ("Open the card", "Space", "device"),
    ),
    STOPS: (
        ("Go along the strings", "arrows"),
        ("Press the stop, or release it", "P"),
        ("Cut the wire, or mend it", "C"),
        ("Short two wires: at the one, then at the other", "S"),
        ("Pull the wire's plug", "U"),
        ("Weld the contact: it stays closed", "W"),
        ("Do what the tool is for; at a supply: lose it", "Enter"),
        ("Mend and release everything", "M"),
        ("Open the card", "Space", "device"),
    ),
    BENCH: (
        ("Go from step to step", "arrows"),
        ("It passed", "P"),
        ("It failed: what to look at", "F"),
        ("A reading, judged by the step", "a number, Enter"),
        ("Write a note to what was seen", "N"),
        ("Take back what was seen", "Backspace"),
        ("Go to the next open step", "Enter"),
        ("Do a step that is held back", "A"),
        ("Inputs and meter live: where they answer", "C"),
        ("Take what the meter or the counter shows", "Space"),
        ("Switch the output of the step on for a moment", "O"),
        ("Read the step aloud", "S"),
        ("Write the report", "R"),
        ("It does not work: begin from what is seen of the device", "T"),
        ("The measurement shows what it should", "G"),
        ("The measurement shows something else", "B"),
        ("It is not the first cause", "X"),
    ),
    HARNESS: (
        ("Show a face of the table", "Ctrl+1 to 7"),
        ("Trace a row", "arrows"),
        ("Change the cell, in all selected rows", "Enter"),
        ("New wire from pin to pin", "N"),
        ("Plan cables", "P"),
        ("Make labels", "L"),
        ("Choose columns", "C"),
        ("The next step of the cables is done", "D"),
    ),
    ROUTE: (
        ("Go about", "arrows"),
        ("Take the selected device in hand", "Enter", "device"),
        ("Propose a first tree", "T"),
        ("A place beyond", "N", "place"),
        ("Join the place to another", "J", "place"),
        ("Cables are held here, or not", "H", "place"),
        ("The run moves, or not", "M", "run"),
        ("Divide the run", "D", "run"),
        ("Lay the traced cable through the run", "W", "run"),
        ("Take away", "Del"),
        ("Open the card", "Space"),
    ),
}  # fmt: skip
KEYS: tuple[KeyEntry, ...] = tuple(
    KeyEntry(area, *row) for area, rows in _TABLE.items() for row in rows
)


def keys_of(area: str) -> tuple[KeyEntry, ...]:
    """The keys of an area."""
    return tuple(entry for entry in KEYS if entry.area == area)
