"""What feeds what, and whether it holds: the machine as a network, state by state."""
