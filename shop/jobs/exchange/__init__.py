"""A job as one file, out and in."""
