"""Stand-ins for axles and instruments, on equations of their own: they never ask the advice."""
