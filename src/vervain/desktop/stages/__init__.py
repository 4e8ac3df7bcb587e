"""The stages: what is worked on in the middle of the window."""
