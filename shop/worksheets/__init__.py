"""Lists and tables beside the bench: the work, tools, runout, heights, torques."""
