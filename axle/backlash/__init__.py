"""Backlash: around the ring gear, per movement, and as an indicator shows it."""
