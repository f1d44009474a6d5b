"""Fasteners: threads and classes, tightening order and stages, and whether a torque can be meant."""
