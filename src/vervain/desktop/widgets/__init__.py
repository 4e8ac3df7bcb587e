"""The panes around the stage."""
