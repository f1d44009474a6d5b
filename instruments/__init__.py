"""Stand-ins for outside devices, as programs."""
