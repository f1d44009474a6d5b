"""Changes of both sides of the carrier together."""
