"""The made-up shop."""

PASSWORD = "snow-on-the-pass"  # noqa: S105 - the demo's, printed by ./start
