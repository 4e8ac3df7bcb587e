"""The keys, as F1 shows them."""

KEYS = """<b>Everywhere</b><br>
Alt+1 to 5 stages · Ctrl+K jump · Ctrl+L trace a label · F6 next pane<br>
Ctrl+Shift+A adds a device · Del in the tray takes one out<br>
Ctrl+Z undo · Ctrl+Shift+Z redo · Ctrl+H all steps · Alt+Enter does the open finding's fix<br>
Alt+M the machine's menu · F2 renames the machine, or changes a cell<br>
Ctrl+O open · Ctrl+S save · Ctrl+Shift+S save as · Ctrl+Shift+H versions<br>
Ctrl+E export · Ctrl++ and Ctrl+− text size · files can be dropped on the window<br>
<br><b>Machine</b><br>
Arrows go from place to place · Enter takes a device, or finds parts for an empty place<br>
With a part in hand: arrows aim, Enter puts, Esc puts back · Del takes out<br>
A adds an axis · C copies · M mirrors the motor · Ctrl+up and down move · D describes a part<br>
<br><b>Leads</b><br>
Ohms and Enter, o open, s short · Backspace takes one back · T keeps the coils<br>
U chooses how the windings are used · P takes printed colours · B probes against the body<br>
Left and Right, with Shift the second, or two clicks on the circle, pick any pair<br>
Up goes to the readings: Enter corrects one, Del takes it back, Ctrl+up and down move it<br>
R puts the leads of a motor that runs wrong in order: 1 to 5 what it did, Enter exchanged<br>
<br><b>Ports</b><br>
Arrows go from port to port · Enter picks up and puts down · Esc puts back<br>
F fills in the rest: Enter puts it in, Esc leaves it · S shows the settings sheet<br>
R turns the selected board a quarter, V turns it over, to how it lies on the bench<br>
Enter puts in what the plug needs as well, Ctrl+Enter the plug alone · Z looks closer at a port<br>
X turns a plug round · A keeps what is in hand as an alternate there · W swaps an alternate in<br>
Del takes off: the plug, or at a pin its lead · Shift+arrows go from pin to pin<br>
Ctrl+arrows carry a conductor to the next pin, with Shift join it to what is there<br>
Space opens the card · C shows the colours at the far end · + and − zoom, 0 fits<br>
<br><b>Supply</b><br>
1 to 5 show an operating state · arrows go along the feeds · Space opens the card<br>
Enter takes a consumer's feed in hand: arrows aim at a strip, a supply or a device to chain it<br>
behind, Enter puts it there · on a source Enter takes its negative, to join it to another,<br>
on metal that is not bonded its protective earth<br>
P shows the current along the feed, or the voltage · U puts a fuse into the feed<br>
G takes the gauge that it wants · Del takes the feed off<br>
<br><b>Harness</b><br>
Ctrl+1 to 5 show a face · arrows trace a row · Enter changes a cell, in all selected rows<br>
N makes a new wire from pin to pin: type both, Tab goes on, Enter joins<br>
Ctrl+F filters · C chooses columns · P plans cables: Space ticks, Enter makes, Esc leaves<br>
L makes labels · Ctrl+E exports, takes lists in, compares with another version<br>
On the route (F6): arrows go about · Enter takes the selected device in hand, to put it there<br>
T proposes a first tree · N a place beyond · J joins it to another · H holds cables there<br>
M lets a run move or not · D divides it · W lays the traced cable through it · Del takes away"""
