"""What a figure is: its unit, its limits, its uncertainty, and how a feeler reads it."""
