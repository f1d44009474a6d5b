"""The ratio for tyres and use: what can be had, what each set does, and what is in the axle now."""
