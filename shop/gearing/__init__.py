"""Pages about the ratio: what can be had, what it does, what is in the axle now."""
