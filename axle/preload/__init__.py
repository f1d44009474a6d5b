"""Bearing preload: rotating torque against interference, the next pack, and the next bite."""
