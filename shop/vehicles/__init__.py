"""The vehicles that a shop knows: described once, shared by their jobs."""
