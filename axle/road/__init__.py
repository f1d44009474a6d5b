"""The road after the build: what to listen for, how warm it gets, its oil, and the break-in."""
