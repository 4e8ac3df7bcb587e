"""Drawing helpers shared by the views."""
