"""The plan measured: speed, against the simple rule and a long run, and whether promises are kept."""
