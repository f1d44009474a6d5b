"""The contact pattern: for now, reading one that was marked on the flanks."""
