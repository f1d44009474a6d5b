"""Shims: pieces, packs of them, and which pack makes a wanted thickness."""
