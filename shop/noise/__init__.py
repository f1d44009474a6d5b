"""The page of a noise: what was told, what it is with odds, and what decides it."""
