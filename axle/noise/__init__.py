"""What a noise says: told by whoever heard it, with odds, and the check that decides it cheapest."""
