"""Speed, measured by scripts rather than by timed tests."""
