"""The work as data: stations, what is read at each, and what a change makes stale."""
